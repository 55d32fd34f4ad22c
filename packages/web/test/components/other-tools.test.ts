import { expect } from 'chai'
import { asLead, component, serve, settled, shown } from './stage.ts'

const BASE = '/api/engagements/0'
const AT = '2026-11-16T06:30:00Z'
const button = (name: string): HTMLElement | undefined =>
  [...document.querySelectorAll<HTMLElement>('button')].find((one) => one.textContent?.trim() === name)

describe('tokens', () => {
  it('are listed without the token, revoked, and shown once when they are made', async () => {
    const token = {
      ...{ id: 4, title: 'Register', begins: 'jurybox_Ab1x', tables: ['findings'], by: 'Isolde Wren' },
      ...{ createdAt: AT, expiresAt: AT, usedAt: null },
    }
    const served = serve({
      [`GET ${BASE}/tokens`]: [token],
      [`DELETE ${BASE}/tokens/4`]: null,
      [`POST ${BASE}/tokens`]: { token: 'jurybox_whole', view: token },
    })
    const { wrapper } = await shown(await component('settings/TokenPanel.vue'))
    await asLead()
    await settled()
    expect(wrapper.text()).to.contain('jurybox_Ab1x…').and.contain('never').and.not.contain('jurybox_whole')
    await wrapper.find('[aria-label="Revoke Register"]').trigger('click')
    await settled()
    expect(served.asked.some(({ method, path }) => method === 'DELETE' && path.endsWith('/tokens/4'))).to.equal(true)
    served.stop()
    wrapper.unmount()
  })
})

describe('legal holds', () => {
  it('say what is held and why, and are released with a reason', async () => {
    const served = serve({ [`POST ${BASE}/holds/7/release`]: null })
    const { wrapper } = await shown(await component('snapshots/HoldPanel.vue'), {
      props: {
        holds: [{ id: 7, snapshot: null, reason: 'Inquiry of the harbour', by: 'Isolde Wren', at: AT }],
        snapshots: [],
      },
    })
    await asLead()
    await settled()
    expect(wrapper.text()).to.contain('Every snapshot').and.contain('Inquiry of the harbour')
    await wrapper
      .findAll('button')
      .find((one) => one.text() === 'Release')
      ?.trigger('click')
    await settled()
    const field = document.querySelector<HTMLTextAreaElement>('.v-dialog textarea, .v-overlay textarea')
    if (field) {
      field.value = 'It is closed'
      field.dispatchEvent(new Event('input'))
    }
    await settled()
    ;[...document.querySelectorAll<HTMLElement>('.v-overlay button')]
      .find((one) => one.textContent?.trim() === 'Release')
      ?.click()
    await settled()
    const sent = served.asked.find(({ path }) => path.endsWith('/holds/7/release'))
    expect(sent?.body).to.deep.equal({ reason: 'It is closed' })
    expect(wrapper.emitted('changed')).to.have.length(1)
    served.stop()
    wrapper.unmount()
  })
})

describe('answers of people', () => {
  const question = {
    ...{ benchmark: 'people', id: 'q', title: 'Diagram', topic: 'Network', profile: 'base', severity: 'high' },
    ...{ question: 'Is there a diagram?', evidence: 'the diagram', references: [], days: 365 },
    ...{ outcome: 'pass', expired: false },
    answer: {
      ...{ benchmark: 'people', attestation: 'q', outcome: 'pass', note: 'Seen', by: 'Bram Teasel', at: AT, until: AT },
      ...{ files: [], id: 5, mayReview: true },
    },
    request: null,
  }
  it('are accepted by another, and say that nobody reviewed them before', async () => {
    const served = serve({
      [`GET ${BASE}/attestations`]: [question],
      [`GET ${BASE}/frameworks`]: [],
      [`PUT ${BASE}/attestations/5/review`]: null,
    })
    const { wrapper } = await shown(await component('benchmarks/QuestionList.vue'), { props: { benchmark: 'people' } })
    await asLead()
    await settled()
    expect(wrapper.text()).to.contain('Not reviewed by a second person.')
    button('Accept')?.click()
    await settled()
    const sent = served.asked.find(({ method }) => method === 'PUT')
    expect(sent?.body).to.deep.equal({ outcome: 'accepted', note: '' })
    served.stop()
    wrapper.unmount()
  })

  it('that are overdue say of whom and until when', async () => {
    const request = {
      id: 2,
      of: { id: 3, name: 'Bram Teasel' },
      due: '2026-11-01',
      overdue: true,
      note: '',
      by: 'Isolde Wren',
    }
    const served = serve({
      [`GET ${BASE}/attestations`]: [{ ...question, answer: null, outcome: 'notchecked', request }],
      [`GET ${BASE}/frameworks`]: [],
    })
    const { wrapper } = await shown(await component('benchmarks/QuestionList.vue'), { props: { benchmark: 'people' } })
    await asLead()
    await settled()
    expect(wrapper.text()).to.contain('Overdue: requested of Bram Teasel until 2026-11-01 by Isolde Wren.')
    served.stop()
    wrapper.unmount()
  })
})

describe('results of another tool', () => {
  it('stand beside the verdicts; what is not of this audit is named, and how much more there is', async () => {
    const served = serve({
      [`POST ${BASE}/audits/9/other-results`]: {
        same: 40,
        differing: [{ device: 'quay', rule: 'ntp-servers', ours: 'fail', theirs: 'pass', note: '' }],
        unknown: { count: 3, names: ['other-rule on quay', 'other-rule on pier'] },
        lost: { count: 0, names: [] },
      },
    })
    const { wrapper } = await shown(await component('reports/FindingsImport.vue'), { props: { audit: 9 } })
    await asLead()
    await wrapper.find('button').trigger('click')
    await settled()
    const field = [...document.querySelectorAll<HTMLInputElement>('input[type="file"]')].at(-1)
    Object.defineProperty(field, 'files', { value: [new File(['<Benchmark/>'], 'other.xml')] })
    field?.dispatchEvent(new Event('change', { bubbles: true }))
    await settled()
    const text = document.body.textContent ?? ''
    expect(text).to.contain('40 say the same, 1 differ.').and.contain('3 are not of this audit')
    expect(text).to.contain('other-rule on pier').and.contain('and 1 more')
    expect(text).not.to.contain('not taken over')
    served.stop()
    wrapper.unmount()
  })
})
