import { expect } from 'chai'
import { component, serve, settled, shown } from './stage.ts'

const DataSheet = await component('shared/DataSheet.vue')
const { useEngagement } = await import('../../src/stores/engagement.ts')
interface Row {
  readonly id: number
  readonly name: string
  readonly lines: number
}
const columns = [
  { key: 'name', title: 'Name', value: ({ name }: Row) => name },
  { key: 'lines', title: 'Lines', value: ({ lines }: Row) => lines, numeric: true },
  { key: 'note', title: 'Note', value: () => 'none', hidden: true },
]
const rows: Row[] = ['core-1', 'core-2', 'edge-1'].map((name, i) => ({ id: i, name, lines: [900, 40, 1200][i] ?? 0 }))
const sheet = (at = '/e/1/estate', props: object = {}) =>
  shown(DataSheet, { at, props: { name: 'devices', label: 'devices', one: 'device', rows, columns, ...props } })
type Shown = Awaited<ReturnType<typeof sheet>>['wrapper']
const names = (wrapper: Shown): string[] =>
  wrapper.findAll('tbody tr.row').map((row) => row.findAll('td')[0]?.text() ?? '')
const pause = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 200))

describe('the table that is a page', () => {
  it('shows what its address says: order, filters and columns', async () => {
    const { wrapper } = await sheet('/e/1/estate?devices.sort=-lines&devices.f.name=core&devices.hide=lines')
    expect(names(wrapper)).to.deep.equal(['core-1', 'core-2'])
    expect(wrapper.findAll('th').map((head) => head.find('button').text())).to.deep.equal(['Name', 'Note'])
    expect(wrapper.find('.tools').text()).to.contain('2 of 3 devices')
  })

  it('writes what is sorted and typed into the address, and leaves the rest of it alone', async () => {
    const { wrapper, router } = await sheet('/e/1/estate?b=7&devices.page=3')
    await wrapper.find('th button').trigger('click')
    await settled()
    expect(router.currentRoute.value.query).to.deep.equal({ b: '7', 'devices.sort': 'name' })
    await wrapper.find('input[type="search"]').setValue('edge')
    await pause()
    await settled()
    expect(router.currentRoute.value.query).to.deep.equal({ b: '7', 'devices.sort': 'name', 'devices.f.name': 'edge' })
    expect(names(wrapper)).to.deep.equal(['edge-1'])
  })

  it('keeps what is being typed, although it is drawn again before the address follows', async () => {
    const { wrapper, router } = await sheet()
    const field = wrapper.find('input[type="search"]')
    for (const text of ['c', 'co', 'cor', 'core', 'core-', 'core-2']) {
      await field.setValue(text)
      // Rows come from a server whenever they like.
      await wrapper.setProps({ rows: [...rows] } as never)
      expect((field.element as HTMLInputElement).value).to.equal(text)
    }
    await pause()
    await settled()
    expect(router.currentRoute.value.query['devices.f.name']).to.equal('core-2')
    await router.push('/e/1/estate?devices.f.name=edge')
    await settled()
    expect((field.element as HTMLInputElement).value).to.equal('edge')
  })

  it('leads to pages where the server holds the rows, and counts all of them', async () => {
    const { wrapper, router } = await sheet('/e/1/estate?devices.page=2', {
      remote: { total: 1234, csv: '/api/devices.csv', busy: false },
    })
    expect(wrapper.find('.tools').text()).to.contain('1,234 devices').and.contain('201–203')
    await wrapper.find('[aria-label="Next page"]').trigger('click')
    await settled()
    expect(router.currentRoute.value.query['devices.page']).to.equal('3')
    await wrapper.find('[aria-label="Previous page"]').trigger('click')
    expect(wrapper.find('a[download]').attributes('href')).to.equal('/api/devices.csv')
  })

  it('saves its view for the engagement, with its own part of the address alone', async () => {
    const served = serve({ 'GET /api/engagements/0/views': [], 'POST /api/engagements/0/views': { id: 1 } })
    try {
      const { wrapper } = await sheet('/e/1/estate?b=7&devices.sort=name&other.sort=x')
      const engagement = useEngagement()
      engagement.view = { id: 7, role: 'lead' } as never
      await wrapper
        .findAll('button')
        .find((button) => button.text() === 'Views')
        ?.trigger('click')
      await settled()
      const field = document.querySelector<HTMLInputElement>('.v-overlay form input')
      if (field) field.value = 'By name'
      field?.dispatchEvent(new Event('input'))
      await settled()
      document.querySelector('.v-overlay form')?.dispatchEvent(new Event('submit'))
      await settled()
      const { body } = served.asked.find(({ method }) => method === 'POST') ?? { body: undefined }
      expect(body).to.deep.equal({ sheet: 'devices', title: 'By name', query: { 'devices.sort': 'name' } })
    } finally {
      served.stop()
    }
  })
})
