import { expect } from 'chai'
import { asLead, component, serve, settled, shown } from './stage.ts'

const BASE = '/api/engagements/0'

/** Gives a file to the last field of files that is on the page. */
async function give(name: string): Promise<void> {
  const field = [...document.querySelectorAll<HTMLInputElement>('input[type="file"]')].at(-1)
  Object.defineProperty(field, 'files', { configurable: true, value: [new File(['{}'], name)] })
  field?.dispatchEvent(new Event('change', { bubbles: true }))
  await settled()
}

describe('own controls', () => {
  it('are imported as a catalog, told with what it held beside, given out, and deleted', async () => {
    const served = serve({
      [`GET ${BASE}/frameworks`]: [
        { id: 'pci-dss-4.0.1', title: 'PCI DSS 4.0.1', requirements: 62, own: false },
        { id: 'harbour', title: 'Harbour controls', requirements: 1, own: true },
      ],
      [`POST ${BASE}/frameworks`]: {
        ...{ id: 'harbour', title: 'Harbour controls', requirements: 1 },
        lost: { count: 2, names: ['prose of h-1', 'parameters of h-1'] },
      },
      [`DELETE ${BASE}/frameworks/harbour`]: null,
    })
    const { wrapper } = await shown(await component('benchmarks/OwnControls.vue'))
    await asLead()
    await settled()
    expect(wrapper.findAll('a').map((one) => one.attributes('href'))).to.deep.equal([
      `${BASE}/frameworks/pci-dss-4.0.1/catalog.json`,
      `${BASE}/frameworks/harbour/catalog.json`,
    ])
    await give('own.json')
    expect(wrapper.text()).to.contain('2 parts of the file were not taken over').and.contain('parameters of h-1')
    // What ships with the product has no button.
    const buttons = wrapper.findAll('button').filter((one) => one.text() === 'Delete')
    expect(buttons).to.have.length(1)
    await buttons[0]?.trigger('click')
    await settled()
    expect(served.asked.some(({ method, path }) => method === 'DELETE' && path.endsWith('/harbour'))).to.equal(true)
    served.stop()
    wrapper.unmount()
  })
})

describe('a benchmark in open formats', () => {
  it('is given out in four, and fitted as a profile says; a file that is none is refused in words', async () => {
    let answer: unknown = { values: 3, tailored: 1, lost: { count: 0, names: [] } }
    const served = serve({ [`POST ${BASE}/benchmarks/hardening/oscal-profile`]: () => answer })
    const { wrapper } = await shown(await component('benchmarks/BenchmarkExchange.vue'), {
      props: { benchmark: 'hardening' },
    })
    await asLead()
    await wrapper.find('button').trigger('click')
    await settled()
    const links = [...document.querySelectorAll<HTMLAnchorElement>('.formats a')].map((one) => one.getAttribute('href'))
    expect(links).to.deep.equal(
      ['oscal-catalog', 'oscal-profile', 'oscal-component-definition', 'xccdf'].map(
        (format) => `${BASE}/benchmarks/hardening/exchange/${format}`,
      ),
    )
    await give('profile.json')
    expect(wrapper.emitted('fitted')).to.have.length(1)
    expect(document.body.textContent).not.to.contain('not taken over')
    const { Refusal } = await import('./stage.ts')
    answer = new Refusal({})
    await give('other.json')
    expect(document.body.textContent).to.contain('The request is not valid.')
    expect(wrapper.emitted('fitted')).to.have.length(1)
    served.stop()
    wrapper.unmount()
  })
})

describe('the coverage of standards', () => {
  const line = (framework: string, requirement: string, coverage: string) => ({
    ...{ framework, requirement, title: `Title ${requirement}`, part: 'Part 1', coverage },
    ...{ rules: ['ssh-only'], attestations: [], expectations: [], traffic: undefined },
  })
  it('counts each kind, and shows the requirements of the chosen standard and kind', async () => {
    const { wrapper } = await shown(await component('benchmarks/CoverageTable.vue'), {
      props: {
        view: {
          frameworks: [
            { id: 'cis-8', title: 'CIS', remark: '' },
            { id: 'pci-4', title: 'PCI DSS', remark: '' },
          ],
          rules: [],
          coverage: [line('pci-4', '1.1', 'machine'), line('pci-4', '1.2', 'none'), line('cis-8', '4.1', 'person')],
        },
      },
    })
    // PCI DSS comes first: it is what most audits are for.
    expect(wrapper.text()).to.contain('1 of 2').and.contain('Title 1.1').and.not.contain('Title 4.1')
    const kind = (words: string) =>
      wrapper.findAll('button.kind').find((one) => one.text().toLowerCase().includes(words))
    await kind('not covered')?.trigger('click')
    await settled()
    expect(wrapper.text()).to.contain('Title 1.2').and.not.contain('Title 1.1')
    await wrapper.findAll('button.framework')[0]?.trigger('click')
    await kind('not covered')?.trigger('click')
    await settled()
    expect(wrapper.text()).to.contain('Title 4.1').and.not.contain('Title 1.2')
    wrapper.unmount()
  })
})

describe('periodic reviews', () => {
  it('say how much time is left or overdue, and are confirmed by an audit with a note', async () => {
    const review = (requirement: string, more: object) => ({
      ...{ framework: 'pci-4', frameworkTitle: 'PCI DSS', requirement, title: `Title ${requirement}`, everyDays: 180 },
      ...{ last: null, due: null, answer: 'open', lapse: null },
      ...more,
    })
    const days = (n: number): string => new Date(Date.now() + n * 86_400_000).toISOString()
    const served = serve({
      [`GET ${BASE}/reviews`]: [
        review('1.1', { last: { at: days(-90), by: 'audit' }, due: days(89.5), answer: 'met' }),
        review('1.2', { last: { at: days(-200), by: 'person' }, due: days(-20.5), answer: 'overdue' }),
        review('1.3', {}),
      ],
      [`POST ${BASE}/reviews`]: null,
    })
    const { wrapper } = await shown(await component('benchmarks/ReviewCalendar.vue'))
    const { useEngagement } = await import('../../src/stores/engagement.ts')
    useEngagement().audits = [{ id: 12, snapshot: { title: 'November' } }] as never
    await asLead()
    await settled()
    const text = wrapper.text()
    expect(text).to.contain('90 days left').and.contain('overdue by 20 days').and.contain('never reviewed')
    await wrapper
      .findAll('button')
      .find((one) => one.text() === 'Confirm audit as review')
      ?.trigger('click')
    await settled()
    const confirm = [...document.querySelectorAll<HTMLButtonElement>('.v-dialog button, .v-overlay button')].at(-1)
    expect(confirm?.disabled, 'without a note').to.equal(true)
    const field = document.querySelector<HTMLTextAreaElement>('.v-overlay textarea')
    if (field) field.value = 'Rules of the firewall, no change needed'
    field?.dispatchEvent(new Event('input'))
    await settled()
    confirm?.click()
    await settled()
    expect(served.asked.find(({ method }) => method === 'POST')?.body).to.include({ requirement: '1.1', audit: 12 })
    served.stop()
    wrapper.unmount()
  })
})
