import { expect } from 'chai'
import { makeWorld, type Client, type World } from './world.ts'

const DAY = 86_400_000

/** What may be deleted, and what may not: legal holds, cited evidence, and the audit log that cannot be cut unseen. */
describe('what is kept', function () {
  this.timeout(60_000)
  let world: World
  let [lead, auditor] = [] as unknown as [Client, Client]
  let [first, second] = [0, 0]
  const e = (path: string): string => `/engagements/${world.engagement}${path}`
  const removed = async (snapshot: number): Promise<number> =>
    (await lead.call('DELETE', e(`/snapshots/${snapshot}`))).status

  /** Changes the log as only the owner of the database can. */
  const changed = async (what: string, values: readonly unknown[]): Promise<void> =>
    world.asOwner(async (owner) => {
      await owner.query('DROP TRIGGER activity_no_update')
      await owner.query(`UPDATE activity SET ${what}`, [...values])
      await owner.query(
        "CREATE TRIGGER activity_no_update BEFORE UPDATE ON activity FOR EACH ROW SIGNAL SQLSTATE '45000' " +
          "SET MESSAGE_TEXT = 'the activity log is append-only'",
      )
    })

  before(async () => {
    world = await makeWorld()
    ;[lead, auditor] = [await world.client('lead'), await world.client('auditor')]
    const frozen = async (name: string): Promise<number> =>
      (await lead.freeze(world.engagement, { [`${name}.cfg`]: `hostname ${name}\n` })).json.id
    second = await frozen('dock')
    // The latest: nothing is carried over from it.
    first = await frozen('quay')
  })
  after(async () => world.end())

  it('a held snapshot is not deleted until a lead releases it, with reasons that stay in the log', async () => {
    expect((await auditor.post(e('/holds'), { snapshot: first, reason: 'Lawsuit' })).status).to.equal(403)
    expect((await lead.post(e('/holds'), { snapshot: first, reason: 'x' })).status).to.equal(400)
    expect((await lead.post(e('/holds'), { snapshot: 999, reason: 'Lawsuit' })).status).to.equal(404)
    expect((await lead.post(e('/holds'), { snapshot: first, reason: 'Lawsuit of the harbour' })).status).to.equal(204)
    expect(await removed(first)).to.equal(409)
    const view = (await lead.get(e('/retention'))).json
    expect(view.holds[0]).to.include({ reason: 'Lawsuit of the harbour' })
    expect(view.snapshots.find(({ id }: { id: number }) => id === first).heldBy).to.equal(
      'legal hold: Lawsuit of the harbour',
    )
    const [{ id }] = view.holds
    expect((await lead.post(e(`/holds/${id}/release`), { reason: 'Settled out of court' })).status).to.equal(204)
    expect((await lead.post(e(`/holds/${id}/release`), { reason: 'Settled out of court' })).status).to.equal(404)
    expect((await lead.get(e('/activity'))).text).to.contain('Settled out of court')
    expect(await removed(first)).to.equal(204)
  })

  it('a hold on everything covers what comes later', async () => {
    expect((await lead.post(e('/holds'), { snapshot: null, reason: 'Inquiry' })).status).to.equal(204)
    const later = (await lead.freeze(world.engagement, { 'later.cfg': 'hostname later\n' })).json.id
    expect(await removed(later)).to.equal(409)
    const [{ id }] = (await lead.get(e('/retention'))).json.holds
    await lead.post(e(`/holds/${id}/release`), { reason: 'Inquiry closed' })
    expect(await removed(later)).to.equal(204)
  })

  it('what a report cites is kept for its time, and no longer', async () => {
    const { auditId } = await lead.audit(world.engagement, second)
    await lead.get(e(`/audits/${auditId}/report.json`))
    expect(await removed(second)).to.equal(409)
    expect((await lead.put(e('/retention'), { days: null, tags: {}, evidenceDays: 365 })).json.evidenceDays).to.equal(
      365,
    )
    expect(await removed(second)).to.equal(409)
    const { database } = world.server.services
    const past = new Date(Date.now() - 366 * DAY)
    await changed("at = ? WHERE action = 'report downloaded'", [past])
    expect(await removed(second)).to.equal(204)
    expect(await database.query('SELECT COUNT(*) AS n FROM audits WHERE id = ?', [auditId])).to.deep.equal([{ n: '0' }])
  })

  it('the audit log is verified from any entry, and says where it breaks', async () => {
    const verified = async (from: number): Promise<any> =>
      (await lead.get(e(`/activity/verification?from=${from}`))).json
    // The entry whose time was changed above.
    const whole = await verified(0)
    const broken = whole.firstBreak
    expect(broken).to.be.a('number')
    expect((await verified(broken + 1)).firstBreak).to.equal(null)
    expect((await verified(broken)).firstBreak).to.equal(broken)
    expect((await verified(broken + 1)).entries).to.be.below(whole.entries)
    expect((await auditor.get(e('/activity/verification'))).status).to.equal(403)
  })

  it('the head of each day is signed, once, and a changed entry shows by it', async () => {
    const { evidence } = world.server.services
    await evidence.keys.signer({ engagementId: world.engagement })
    const tomorrow = new Date(Date.now() + DAY)
    await evidence.logHeads.signAll(tomorrow)
    await evidence.logHeads.signAll(tomorrow)
    const { signed } = (await lead.get(e('/activity/verification'))).json
    expect(signed).to.have.length(1)
    expect(signed[0]).to.include({ holds: true, day: new Date().toISOString().slice(0, 10) })
    await changed('hash = ? WHERE id = ?', ['0'.repeat(64), signed[0].entry])
    expect((await lead.get(e('/activity/verification'))).json.signed[0].holds).to.equal(false)
  })
})
