import { expect } from 'chai'
import { component, serve, settled, shown, type Served } from './stage.ts'

const WaiveDialog = await component('verdicts/WaiveDialog.vue')
const WaiveManyDialog = await component('verdicts/WaiveManyDialog.vue')
const { useSession } = await import('../../src/stores/session.ts')

const VERDICT = {
  benchmark: 'network-hardening',
  rule: 'vty-ssh-only',
  device: 'core-1',
  subjects: [
    { name: 'vty 0 4', outcome: 'fail' },
    { name: 'vty 5 15', outcome: 'unknown' },
    { name: 'con 0', outcome: 'pass' },
  ],
}
const OBJECTING = {
  verdicts: [
    { device: 'core-1', waived: false },
    { device: 'edge-1', waived: false },
    { device: 'old-1', waived: true },
  ],
  total: 3,
}
let served: Served
const dialog = async (tested: typeof WaiveDialog, props: object) => {
  const { wrapper } = await shown(tested, { props: { modelValue: true, ...props } })
  useSession().view = { user: { fullName: 'Isolde Wren' } } as never
  await settled()
  return wrapper
}
const page = (): HTMLElement => document.querySelector('.v-dialog') as HTMLElement
const button = (words: string): HTMLButtonElement | undefined =>
  [...page().querySelectorAll<HTMLButtonElement>('button')].find((one) => one.textContent?.trim() === words)
async function write(selector: string, text: string): Promise<void> {
  const field = page().querySelector<HTMLInputElement>(selector)
  if (!field) throw new Error(`no ${selector}`)
  field.value = text
  field.dispatchEvent(new Event('input'))
  await settled()
}
async function submit(): Promise<void> {
  page().querySelector('form')?.dispatchEvent(new Event('submit'))
  await settled()
}
const sent = () => served.asked.find(({ method }) => method === 'POST')

describe('waiving a finding', () => {
  beforeEach(() => {
    served = serve({
      'GET /api/engagements/0/audits/4/verdicts': OBJECTING,
      'POST /api/engagements/0/waivers': { came: [{ device: 'core-1', what: 'waived' }] },
      'POST /api/engagements/0/audits/4/waivers': {
        came: [{ device: 'core-1', rule: 'vty-ssh-only', what: 'waived' }],
      },
    })
  })
  afterEach(() => served.stop())

  it('says what is missing before it can be done', async () => {
    await dialog(WaiveDialog, { verdict: VERDICT, auditId: 4 })
    expect(button('Waive')?.disabled).to.equal(true)
    expect(page().querySelector('[role="note"]')?.textContent).to.match(/reason/i)
    await write('textarea', 'Replaced in spring.')
    await write('.two input[type="text"]', 'Isolde Wren')
    expect(button('Waive')?.disabled).to.equal(false)
    expect(page().querySelector('[role="note"]')).to.equal(null)
  })

  it('offers the devices that break the rule and are not waived yet, and the subjects that do', async () => {
    await dialog(WaiveDialog, { verdict: VERDICT, auditId: 4 })
    const labels = [...page().querySelectorAll('.devices label')].map((label) => label.textContent?.trim())
    expect(labels).to.deep.equal(['core-1', 'edge-1'])
    expect(page().querySelectorAll('.v-select')).to.have.length(1)
  })

  it('sends its terms, then says what became of each', async () => {
    const wrapper = await dialog(WaiveDialog, { verdict: VERDICT, auditId: 4 })
    await write('textarea', 'Replaced in spring.')
    await write('.two input[type="text"]', 'Orla Finch')
    await submit()
    const body = sent()?.body as Record<string, unknown>
    expect(body).to.deep.include({
      benchmark: 'network-hardening',
      rule: 'vty-ssh-only',
      devices: ['core-1'],
      subject: null,
      reason: 'Replaced in spring.',
      owner: 'Orla Finch',
    })
    expect(body['expires']).to.match(/^\d{4}-\d\d-\d\dT23:59:59Z$/)
    expect(page().textContent).to.contain('core-1: waived')
    expect(wrapper.emitted('waived')).to.have.length(1)
  })

  it('of no device waives as a whole, without asking for devices', async () => {
    await dialog(WaiveDialog, { verdict: { ...VERDICT, device: '', subjects: [] }, auditId: null })
    expect(page().querySelector('fieldset')).to.equal(null)
    expect(served.asked).to.deep.equal([])
  })

  it('shows what was refused and keeps what was written', async () => {
    served.stop()
    served = serve({ 'GET /api/engagements/0/audits/4/verdicts': OBJECTING })
    await dialog(WaiveDialog, { verdict: VERDICT, auditId: 4 })
    await write('textarea', 'Replaced in spring.')
    await submit()
    expect(page().textContent).to.contain('nobody answers POST')
    expect(page().querySelector<HTMLTextAreaElement>('textarea')?.value).to.equal('Replaced in spring.')
  })

  it('of many is done on the same terms, each on its device', async () => {
    const wrapper = await dialog(WaiveManyDialog, { auditId: 4, verdicts: [9, 10] })
    expect(page().querySelector('h2')?.textContent).to.contain('2')
    await write('textarea', 'Replaced in spring.')
    await submit()
    expect(sent()?.body).to.deep.include({ verdicts: [9, 10], reason: 'Replaced in spring.' })
    expect(page().textContent).to.contain('vty-ssh-only')
    expect(wrapper.emitted('waived')).to.have.length(1)
  })
})
