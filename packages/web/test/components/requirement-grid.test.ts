import { expect } from 'chai'
import { component, settled, shown } from './stage.ts'

const RequirementGrid = await component('verdicts/RequirementGrid.vue')
const FRAMEWORK = {
  id: 'pci-dss-4.0.1',
  title: 'PCI DSS 4.0.1',
  requirements: { '1.2.1': 'Rulesets', '2.2.2': 'Defaults' },
}
const rule = (id: string, ...numbers: string[]) => ({
  benchmark: 'own',
  id,
  title: id,
  topic: 'access',
  severity: 'high',
  references: numbers.map((number) => `${FRAMEWORK.id}:${number}`),
})
const cell = (deviceId: number, id: string, outcome: string) => ({
  id: deviceId,
  deviceId,
  benchmark: 'own',
  rule: id,
  outcome,
  waived: false,
  since: null,
})
const GRID = {
  rules: [rule('a', '2.2.2', '1.2.1'), rule('b', '2.2.2')],
  devices: [
    { id: 1, name: 'core-1', facts: { site: 'quay' } },
    { id: 2, name: 'edge-1', facts: { site: 'dock' } },
  ],
  frameworks: [FRAMEWORK],
  cells: [cell(1, 'a', 'fail'), cell(1, 'b', 'fail'), cell(2, 'b', 'pass')],
  before: null,
}
const grid = (groupBy = 'none') =>
  shown(RequirementGrid, { at: '/e/1/verdicts?b=7', props: { grid: GRID, framework: FRAMEWORK, groupBy } })

describe('the grid of devices by requirements', () => {
  it('has a column for each requirement, and tells a cell in words', async () => {
    const { wrapper } = await grid()
    expect(wrapper.findAll('th.number').map((head) => head.text())).to.deep.equal(['1.2.1', '2.2.2'])
    expect(wrapper.find('th.number').attributes('title')).to.equal('PCI DSS 4.0.1 1.2.1 Rulesets')
    expect(wrapper.findAll('a.cell').map((one) => one.attributes('title'))).to.deep.equal([
      'core-1, 1.2.1: fail; findings: 1 of 1',
      'core-1, 2.2.2: fail; findings: 2 of 2',
      'edge-1, 2.2.2: pass; findings: 0 of 1',
    ])
    expect(wrapper.text()).to.contain('no verdict')
  })

  it('leads to the verdicts behind a cell, as of the same snapshot', async () => {
    const { wrapper, router } = await grid()
    await wrapper.findAll('a.cell')[1]?.trigger('click')
    await settled()
    expect(router.currentRoute.value.query).to.deep.equal({
      b: '7',
      view: 'list',
      requirement: 'pci-dss-4.0.1:2.2.2',
      'verdicts.f.device': 'core-1',
    })
  })

  it('is walked by arrows; one cell takes the focus', async () => {
    const { wrapper } = await grid()
    expect(wrapper.findAll('a.cell[tabindex="0"]')).to.have.length(1)
    const table = wrapper.find('table')
    await table.trigger('keydown', { key: 'ArrowRight' })
    await settled()
    expect(document.activeElement?.getAttribute('data-cell')).to.equal('0-1')
    await table.trigger('keydown', { key: 'ArrowDown' })
    await settled()
    expect(document.activeElement?.getAttribute('data-cell')).to.equal('1-1')
    await table.trigger('keydown', { key: 'End' })
    await table.trigger('keydown', { key: 'ArrowUp' })
    await settled()
    expect(document.activeElement?.getAttribute('data-cell')).to.equal('0-1')
  })

  it('puts devices of a site together', async () => {
    const { wrapper } = await grid('site')
    expect(wrapper.findAll('tr.group').map((group) => group.text())).to.deep.equal(['dock', 'quay'])
    expect(wrapper.findAll('th.device').map((device) => device.text())).to.deep.equal(['edge-1', 'core-1'])
  })
})
