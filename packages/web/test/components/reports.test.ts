import { expect } from 'chai'
import { moved, NOTHING_CHOSEN, queryOf } from '../../src/reports/choice.ts'
import { asLead, component, serve, settled, shown } from './stage.ts'

const BASE = '/api/engagements/0'

describe('what a report consists of', () => {
  it('is asked for by what differs from the usual', () => {
    expect(queryOf(NOTHING_CHOSEN)).to.deep.equal({})
    expect(
      queryOf({ ...NOTHING_CHOSEN, audience: 'assessor', sections: ['records', 'summary'], site: 'quay' }),
    ).to.deep.equal({ audience: 'assessor', sections: 'records,summary', site: 'quay' })
  })

  it('is put in another order by one place, and no further than the ends', () => {
    expect(moved(['a', 'b', 'c'], 1, -1)).to.deep.equal(['b', 'a', 'c'])
    expect(moved(['a', 'b', 'c'], 2, 1)).to.deep.equal(['a', 'b', 'c'])
    expect(moved(['a', 'b', 'c'], 0, -1)).to.deep.equal(['a', 'b', 'c'])
  })

  it('is changed in a dialog: sections moved and left out, and the audience brings its own', async () => {
    const served = serve({
      [`GET ${BASE}/devices`]: { snapshot: null, audit: null, devices: [] },
      [`GET ${BASE}/sites`]: [],
    })
    const { wrapper } = await shown(await component('reports/ReportContents.vue'), {
      props: {
        modelValue: { ...NOTHING_CHOSEN, sections: ['summary', 'findings'] },
        snapshot: 1,
        topics: [],
        hasLogo: false,
      },
    })
    await asLead()
    expect(wrapper.text()).to.contain('2 sections')
    await wrapper
      .findAll('button')
      .find((one) => one.text() === 'Change contents')
      ?.trigger('click')
    await settled()
    const button = (label: string): HTMLElement | null => document.querySelector(`[aria-label="${label}"]`)
    button('Move Findings up')?.click()
    await settled()
    const emitted = (): any[] => (wrapper.emitted('update:modelValue') ?? []).map(([value]) => value)
    expect(emitted().at(-1).sections).to.deep.equal(['findings', 'summary'])
    expect(button('Move Findings up')?.hasAttribute('disabled')).to.equal(true)
    served.stop()
    wrapper.unmount()
  })
})

describe('saved reports', () => {
  it('are taken up again, deleted, and list what was made of them', async () => {
    const choice = { ...NOTHING_CHOSEN, audience: 'management' as const }
    const served = serve({ [`DELETE ${BASE}/reports/3`]: null })
    const { wrapper } = await shown(await component('reports/SavedReports.vue'), {
      props: {
        choice,
        formats: [{ form: 'pdf', title: 'PDF', what: '' }],
        saved: [{ id: 3, title: 'Board', format: 'pdf', choice, afterAudit: true }],
        made: [{ id: 9, title: 'Board', format: 'pdf', audit: 1, size: 10, madeAt: '2026-11-16T06:30:00Z' }],
      },
    })
    await asLead()
    await settled()
    expect(wrapper.text()).to.contain('after each audit, PDF').and.contain('Made after audits')
    expect(wrapper.find('a').attributes('href')).to.equal(`${BASE}/made-reports/9`)
    await wrapper.find('.take').trigger('click')
    expect(wrapper.emitted('take')).to.deep.equal([[choice]])
    await wrapper.find('[aria-label="Delete Board"]').trigger('click')
    await settled()
    expect(served.asked.some(({ method, path }) => method === 'DELETE' && path.endsWith('/reports/3'))).to.equal(true)
    expect(wrapper.emitted('changed')).to.have.length(1)
    served.stop()
    wrapper.unmount()
  })
})
