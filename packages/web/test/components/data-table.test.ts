import { expect } from 'chai'
import { component, settled, shown } from './stage.ts'

const DataTable = await component('shared/DataTable.vue')
interface Row {
  readonly id: number
  readonly name: string
  readonly lines: number
}
const columns = [
  { key: 'name', title: 'Name', value: ({ name }: Row) => name },
  { key: 'lines', title: 'Lines', value: ({ lines }: Row) => lines, numeric: true },
]
const rowsOf = (count: number): Row[] =>
  Array.from({ length: count }, (_, i) => ({ id: i, name: `device ${i}`, lines: (i * 7919) % 5000 }))
const table = (props: object) => shown(DataTable, { props: { columns, label: 'devices', ...props } })
type Shown = Awaited<ReturnType<typeof table>>['wrapper']
const names = (wrapper: Shown): string[] =>
  wrapper.findAll('tbody tr.row').map((row) => row.findAll('td')[0]?.text() ?? '')

describe('the table', () => {
  it('sorts by a head: upwards, downwards, as rows came; and says so to those who cannot see it', async () => {
    const { wrapper } = await table({ rows: rowsOf(3) })
    const head = wrapper.findAll('th')[1]
    const said: (string | undefined)[] = []
    const order: string[][] = []
    for (let press = 0; press < 3; press++) {
      await head?.find('button').trigger('click')
      said.push(head?.attributes('aria-sort'))
      order.push(names(wrapper))
    }
    expect(said).to.deep.equal(['ascending', 'descending', 'none'])
    expect(order).to.deep.equal([
      ['device 0', 'device 2', 'device 1'],
      ['device 1', 'device 2', 'device 0'],
      ['device 0', 'device 1', 'device 2'],
    ])
  })

  it('shows thousands as people read them', async () => {
    const { wrapper } = await table({ rows: [{ id: 1, name: 'a', lines: 1234567 }] })
    expect(wrapper.find('td.num').text()).to.equal('1,234,567')
  })

  it('offers a filter and an export where it is long, and not where it is short', async () => {
    const short = await table({ rows: rowsOf(12), name: 'devices' })
    expect(short.wrapper.find('.tools').exists()).to.equal(false)
    const long = await table({ rows: rowsOf(13), name: 'devices' })
    expect(long.wrapper.find('.tools').text()).to.contain('13').and.contain('CSV')
    await long.wrapper.find('input[type="search"]').setValue('device 11')
    expect(names(long.wrapper)).to.deep.equal(['device 11'])
    expect(long.wrapper.find('.tools').text()).to.contain('1 of 13')
  })

  it('says what it means that there are no rows, and something else where a filter leaves none', async () => {
    const none = await table({ rows: [], empty: 'Nothing was captured.' })
    expect(none.wrapper.find('tbody').text()).to.equal('Nothing was captured.')
    const filtered = await table({ rows: rowsOf(20), empty: 'Nothing was captured.' })
    await filtered.wrapper.find('input[type="search"]').setValue('no such thing')
    expect(filtered.wrapper.find('tbody').text()).to.equal('No rows match the filters.')
  })

  it('opens the row that holds the focus, which arrows move', async () => {
    const { wrapper } = await table({ rows: rowsOf(4), opens: true })
    await wrapper.find('[data-at="0"]').trigger('keydown', { key: 'ArrowDown' })
    await wrapper.find('[data-at="1"]').trigger('keydown', { key: 'End' })
    await settled()
    expect(document.activeElement?.getAttribute('data-at')).to.equal('3')
    await wrapper.find('[data-at="3"]').trigger('keydown', { key: 'Enter' })
    await wrapper.find('[data-at="1"]').trigger('click')
    expect(wrapper.emitted('open')?.map(([row]) => (row as Row).name)).to.deep.equal(['device 3', 'device 1'])
    expect(wrapper.findAll('tr[tabindex="0"]')).to.have.length(1)
  })

  it('takes no focus where rows do not open', async () => {
    const { wrapper } = await table({ rows: rowsOf(2) })
    expect(wrapper.findAll('tr[tabindex]')).to.have.length(0)
    await wrapper.find('[data-at="1"]').trigger('click')
    expect(wrapper.emitted('open')).to.equal(undefined)
  })

  it('chooses a range with Shift, and all with the box above', async () => {
    const { wrapper } = await table({ rows: rowsOf(6), selectable: true, 'onUpdate:selected': keep })
    let selected: unknown = []
    function keep(keys: unknown): void {
      selected = keys
      void wrapper.setProps({ selected: keys } as never)
    }
    const boxes = () => wrapper.findAll('tbody .pick input')
    await boxes()[1]?.trigger('click')
    await settled()
    await boxes()[4]?.trigger('click', { shiftKey: true })
    await settled()
    expect(selected).to.deep.equal([1, 2, 3, 4])
    await wrapper.find('thead .pick input').trigger('change')
    expect(selected).to.deep.equal([0, 1, 2, 3, 4, 5])
    await settled()
    await wrapper.find('thead .pick input').trigger('change')
    expect(selected).to.deep.equal([])
  })

  it('draws few of many rows, all of them on paper', async () => {
    const { wrapper } = await table({ rows: rowsOf(600), height: '400px' })
    expect(names(wrapper).length).to.be.lessThan(120)
    expect(wrapper.find('table').attributes('aria-rowcount')).to.equal('600')
    window.dispatchEvent(new Event('beforeprint'))
    await settled()
    expect(names(wrapper)).to.have.length(600)
    window.dispatchEvent(new Event('afterprint'))
    await settled()
    expect(names(wrapper).length).to.be.lessThan(120)
  })

  it('puts titles above groups until somebody sorts, and details below the row that is open', async () => {
    const { wrapper } = await shown(DataTable, {
      props: {
        columns,
        label: 'devices',
        rows: rowsOf(4),
        groupOf: ({ id }: Row) => (id < 2 ? 'Quay' : 'Dock'),
        expanded: ({ id }: Row) => id === 3,
      },
      slots: { detail: 'more of it' },
    })
    expect(wrapper.findAll('.title').map((title) => title.text())).to.deep.equal(['Quay', 'Dock'])
    expect(wrapper.find('.detail').text()).to.equal('more of it')
    await wrapper.find('th button').trigger('click')
    expect(wrapper.findAll('.title')).to.have.length(0)
  })
})
