import { expect } from 'chai'
import { asLead, component, serve, settled, shown } from './stage.ts'

const BASE = '/api/engagements/0'
const LONG_AGO = '2026-01-01T00:00:00Z'
const snapshot = (id: number, more: object) => ({
  ...{ id, title: `State ${id}`, tags: [], until: null, goes: false, heldBy: null },
  ...more,
})

async function stage() {
  const view = { days: 90, tags: { approved: null }, evidenceDays: null, holds: [], snapshots: [] }
  const tried = {
    ...view,
    days: 30,
    snapshots: [
      snapshot(1, { until: LONG_AGO, goes: true }),
      snapshot(2, { until: LONG_AGO, heldBy: 'an audit' }),
      snapshot(3, {}),
    ],
  }
  const served = serve({ [`GET ${BASE}/retention`]: view, [`PUT ${BASE}/retention`]: tried })
  const { wrapper } = await shown(await component('snapshots/RetentionPanel.vue'), { props: { known: ['approved'] } })
  await asLead()
  await settled()
  const end = (): void => {
    served.stop()
    wrapper.unmount()
  }
  return { served, wrapper, end }
}

describe('how long snapshots are kept', () => {
  it('is said in sentences, by age and by tag, with what is cited', async () => {
    const { wrapper, end } = await stage()
    const text = wrapper.text().replace(/\s+/g, ' ')
    expect(text).to.contain('Snapshots are kept 90 days; tagged “approved” for ever.')
    expect(text).to.contain('Evidence that a report or a signed pack cites is kept for ever.')
    end()
  })

  it('is tried before it is saved: what goes, and what stays although its time is over', async () => {
    const { served, wrapper, end } = await stage()
    const press = async (words: string): Promise<void> => {
      await wrapper
        .findAll('button')
        .find((one) => one.text() === words)
        ?.trigger('click')
      await settled()
    }
    await press('Edit')
    await wrapper.find('input[type="number"]').setValue('30')
    await settled()
    const puts = () => served.asked.filter(({ method }) => method === 'PUT').map(({ body }) => body as any)
    expect(puts().every((body) => body.try === true)).to.equal(true)
    expect(puts().at(-1)).to.deep.include({ days: 30, evidenceDays: null, tags: { approved: null } })
    const text = wrapper.text().replace(/\s+/g, ' ')
    expect(text).to.contain('snapshot is deleted now').and.contain('State 1').and.not.contain('State 3')
    expect(text).to.contain('Kept although expired: State 2 (an audit).')
    await wrapper.find('form').trigger('submit')
    await settled()
    expect(puts().at(-1)).to.not.have.property('try')
    expect(wrapper.emitted('changed')).to.have.length(1)
    end()
  })
})
