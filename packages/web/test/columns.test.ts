import { expect } from 'chai'
import fc from 'fast-check'
import {
  compareValues,
  csvOf,
  matchesFilter,
  nextSort,
  rowsWith,
  shownOf,
  sortedRows,
  type Column,
} from '../src/shared/columns.ts'
import { RowHeights } from '../src/shared/row-heights.ts'

interface Row {
  readonly name: string
  readonly lines: number
}
const columns: Column<Row>[] = [
  { key: 'name', title: 'Name', value: ({ name }) => name },
  { key: 'lines', title: 'Lines', value: ({ lines }) => lines, raw: ({ lines }) => lines * 2, numeric: true },
  { key: 'acts', title: 'Actions', value: () => '', acts: true },
]
const rows: Row[] = [
  { name: 'port 10', lines: 1200 },
  { name: 'port 2', lines: 7 },
  { name: 'Trunk', lines: 88 },
]

describe('columns of a table', () => {
  it('sort texts as people order them, numbers by size, and come back to how rows came', () => {
    expect(sortedRows(rows, columns, 'name').map(({ name }) => name)).to.deep.equal(['port 2', 'port 10', 'Trunk'])
    expect(sortedRows(rows, columns, '-lines').map(({ lines }) => lines)).to.deep.equal([1200, 88, 7])
    expect(sortedRows(rows, columns, '')).to.equal(rows)
    expect(sortedRows(rows, columns, 'gone')).to.equal(rows)
    expect([nextSort('', 'a'), nextSort('a', 'a'), nextSort('-a', 'a'), nextSort('b', 'a')]).to.deep.equal([
      'a',
      '-a',
      '',
      'a',
    ])
  })

  it('leave rows alone that are equal: a sort keeps their order', () => {
    fc.assert(
      fc.property(fc.array(fc.record({ name: fc.constantFrom('a', 'b'), lines: fc.nat(3) })), (some) => {
        const sorted = sortedRows(some, columns, 'name')
        for (const name of ['a', 'b'])
          expect(sorted.filter((row) => row.name === name)).to.deep.equal(some.filter((row) => row.name === name))
        for (let i = 1; i < sorted.length; i++)
          expect(compareValues(sorted[i - 1]?.name ?? '', sorted[i]?.name ?? '')).to.be.at.most(0)
      }),
    )
  })

  it('filter by words in any column, and by bounds of a number', () => {
    expect(rowsWith(rows, columns, 'PORT 1200').map(({ name }) => name)).to.deep.equal(['port 10'])
    expect(rowsWith(rows, columns, '  ')).to.equal(rows)
    expect(matchesFilter(88, '>80')).to.equal(true)
    expect(matchesFilter(88, '< 88')).to.equal(false)
    expect(matchesFilter(88, '=88')).to.equal(true)
    expect(matchesFilter(880, '88')).to.equal(true)
    expect(matchesFilter('> 80', '>80')).to.equal(false)
  })

  it('show thousands, but not in numbers that are names', () => {
    expect(shownOf(columns[1] as Column<Row>, rows[0] as Row)).to.equal('1,200')
    expect(shownOf({ ...(columns[1] as Column<Row>), plain: true }, rows[0] as Row)).to.equal(1200)
  })

  it('export what is shown, raw values beside it, no buttons, and nothing that a spreadsheet would run', () => {
    expect(csvOf([{ name: '=SUM(A1)', lines: 3 }], columns).split('\r\n')).to.deep.equal([
      'Name,Lines,Lines (raw)',
      '"\'=SUM(A1)",3,6',
    ])
  })
})

describe('heights of rows', () => {
  it('are true where a row was drawn, usual elsewhere: as sums and places of a plain list say', () => {
    const measures = fc.array(fc.tuple(fc.nat(60), fc.integer({ min: 1, max: 200 })))
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 50 }), measures, fc.nat(4000), (count, measured, pixel) => {
        const heights = new RowHeights(count, 34)
        const plain = new Array<number>(count).fill(34)
        for (const [row, height] of measured) {
          heights.measure(row, height)
          if (row < count) plain[row] = height
        }
        const above = (row: number): number => plain.slice(0, row).reduce((sum, height) => sum + height, 0)
        expect(heights.total).to.equal(above(count))
        for (let row = 0; row <= count; row++) expect(heights.above(row)).to.equal(above(row))
        const at = heights.rowAt(pixel)
        expect(above(at)).to.be.at.most(pixel)
        if (at < count - 1) expect(above(at + 1)).to.be.greaterThan(pixel)
      }),
    )
  })
  it('tell whether anything is new', () => {
    const heights = new RowHeights(3, 34)
    expect([
      heights.measure(1, 50),
      heights.measure(1, 50),
      heights.measure(9, 50),
      heights.measure(0, 0),
    ]).to.deep.equal([true, false, false, false])
  })
})
