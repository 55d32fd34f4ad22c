import { expect } from 'chai'
import { makeWorld, type Client, type World } from './world.ts'

const DAY = 86_400_000

/** Questions that only people answer: asked for, answered, reviewed by another, and expiring. */
describe('answers of people', function () {
  this.timeout(60_000)
  let world: World
  let [lead, auditor, engineer, reader] = [] as unknown as [Client, Client, Client, Client]
  let question: { benchmark: string; id: string; title: string }
  const e = (path: string): string => `/engagements/${world.engagement}${path}`
  const shown = async (client = lead): Promise<any> =>
    (await client.get(e('/attestations'))).json.find(({ id }: { id: string }) => id === question.id)
  const day = (offset: number): string => new Date(Date.now() + offset * DAY).toISOString().slice(0, 10)

  before(async () => {
    world = await makeWorld()
    const all = await Promise.all(['lead', 'auditor', 'engineer', 'reader'].map(async (name) => world.client(name)))
    ;[lead, auditor, engineer, reader] = all as [Client, Client, Client, Client]
    question = (await lead.get(e('/attestations'))).json[0]
  })
  after(async () => world.end())

  const asked = (of: number, due: string, client = auditor): ReturnType<Client['put']> =>
    client.put(e('/answer-requests'), {
      benchmark: question.benchmark,
      attestation: question.id,
      of,
      due,
      note: 'For the board',
    })
  const answered = (outcome = 'pass', client = engineer): ReturnType<Client['post']> =>
    client.post(e('/attestations'), {
      benchmark: question.benchmark,
      attestation: question.id,
      outcome,
      note: 'Seen in the binder',
    })

  it('an answer is asked of a member who may give it, and told as overdue after its day', async () => {
    expect((await asked(world.users.engineer, day(7), reader)).status).to.equal(403)
    expect((await asked(world.users.reader, day(7))).status).to.equal(422)
    expect((await asked(world.users.engineer, day(7))).status).to.equal(204)
    expect((await shown()).request).to.include({ due: day(7), overdue: false, note: 'For the board' })
    expect((await shown()).request.of.id).to.equal(world.users.engineer)
    expect((await asked(world.users.engineer, day(-1))).status).to.equal(204)
    expect((await shown()).request).to.include({ due: day(-1), overdue: true })
    expect((await shown()).outcome).to.equal('notchecked')
  })

  it('a request goes with the answer, or is withdrawn', async () => {
    expect((await answered()).status).to.equal(204)
    expect((await shown()).request).to.equal(null)
    expect((await asked(world.users.engineer, day(3))).status).to.equal(204)
    const { id } = (await shown()).request
    expect((await reader.call('DELETE', e(`/answer-requests/${id}`))).status).to.equal(403)
    expect((await auditor.call('DELETE', e(`/answer-requests/${id}`))).status).to.equal(204)
    expect((await auditor.call('DELETE', e(`/answer-requests/${id}`))).status).to.equal(404)
    expect((await shown()).request).to.equal(null)
  })

  it('another person reviews it; one that is sent back does not count, and the next one does', async () => {
    const { answer } = await shown(lead)
    expect([answer.mayReview, (await shown(engineer)).answer.mayReview]).to.deep.equal([true, false])
    const reviewed = (outcome: string, note: string, client = auditor): ReturnType<Client['put']> =>
      client.put(e(`/attestations/${answer.id}/review`), { outcome, note })
    expect((await reviewed('accepted', '', engineer)).status).to.equal(403)
    expect((await reviewed('returned', '')).status).to.equal(422)
    expect((await shown()).outcome).to.equal('pass')
    expect((await reviewed('returned', 'The binder ends in August')).status).to.equal(204)
    expect((await shown()).outcome).to.equal('notchecked')
    expect((await shown()).answer.review).to.include({ outcome: 'returned', note: 'The binder ends in August' })
    expect((await answered('pass', auditor)).status).to.equal(204)
    const next = (await shown()).answer
    expect([next.review, (await shown()).outcome]).to.deep.equal([undefined, 'pass'])
    const own = await auditor.put(e(`/attestations/${next.id}/review`), { outcome: 'accepted', note: '' })
    expect(own.status, 'whoever answered reviews no answer of theirs').to.equal(422)
    expect((await lead.put(e(`/attestations/${next.id}/review`), { outcome: 'accepted', note: '' })).status).to.equal(
      204,
    )
    expect((await shown()).answer.review.outcome).to.equal('accepted')
  })

  it('who asked and reviewed stands in the audit log', async () => {
    const text = (await lead.get(e('/activity'))).text
    for (const words of ['Asked', 'Withdrew the request', 'Reviewed the answer']) expect(text).to.contain(words)
  })
})
