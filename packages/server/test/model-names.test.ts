import { expect } from 'chai'
import { CONFIG, makeWorld, type Client, type World } from './world.ts'

const OBJECT_ID = '1.3.6.1.4.1.99999.1.7'
/** What an SNMP agent states that has no model. */
const STATED = JSON.stringify({
  'ietf-system:system-state': { platform: { 'os-name': 'core1', 'os-version': 'OstOS 5.1', machine: OBJECT_ID } },
  'ietf-interfaces:interfaces': { interface: [] },
})

describe('names of models', () => {
  let world: World
  let lead: Client
  const base = (): string => `/engagements/${world.engagement}`
  /** Until the estate is read. */
  const asked = async (path: string): Promise<any> => {
    for (;;) {
      const answer = await lead.get(`${base()}${path}`)
      if (answer.status !== 202) return answer.json
    }
  }
  const modelOf = async (device: string): Promise<string | null> =>
    (await asked('/approvals')).devices.find((one: any) => one.device === device)?.model
  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
    await lead.freeze(world.engagement, {
      'devices/core1/config.txt': CONFIG,
      'devices/core1/state/counters.txt': STATED,
    })
  })
  after(() => world.end())

  it('object identifiers that devices state and nobody named are listed', async () => {
    expect(await modelOf('core1')).to.equal(OBJECT_ID)
    expect(await asked('/model-names')).to.deep.equal({
      names: [],
      unnamed: [{ objectId: OBJECT_ID, devices: ['core1'] }],
    })
  })

  it('a name stands for the identifier wherever the model is told, and the log says who set it', async () => {
    const names = [{ objectId: OBJECT_ID, name: 'C-68' }]
    expect((await lead.put(`${base()}/model-names`, { names })).json).to.deep.equal({ names })
    expect(await modelOf('core1')).to.equal('C-68')
    expect((await asked('/model-names')).unnamed).to.deep.equal([])
    expect(JSON.stringify(await asked('/search?q=C-68'))).to.contain('core1')
    const { json: log } = await lead.get(`${base()}/activity`)
    expect(JSON.stringify(log)).to.contain(`Set the names of models: ${OBJECT_ID} = C-68.`)
  })

  it('without it the identifier is told again', async () => {
    await lead.put(`${base()}/model-names`, { names: [] })
    expect(await modelOf('core1')).to.equal(OBJECT_ID)
  })

  it('what is no identifier, or is there twice, is refused beside its field', async () => {
    const refused = async (names: unknown): Promise<string> => {
      const { status, text } = await lead.put(`${base()}/model-names`, { names })
      expect(status).to.equal(400)
      return text
    }
    expect(await refused([{ objectId: 'C-68', name: 'x' }])).to.contain('names.0.objectId')
    expect(await refused([{ objectId: OBJECT_ID, name: ' ' }])).to.contain('names.0.name')
    expect(await refused([1, 2].map((n) => ({ objectId: OBJECT_ID, name: `C-${n}` })))).to.contain('each object')
    const reader = await world.client('reader')
    expect((await reader.put(`${base()}/model-names`, { names: [] })).status).to.equal(403)
  })
})
