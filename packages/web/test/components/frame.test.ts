import { expect } from 'chai'
import { component, serve, settled, shown } from './stage.ts'

const SearchField = await component('frame/SearchField.vue')
const ChronicleStrip = await component('frame/ChronicleStrip.vue')
const ConfirmDialog = await component('frame/ConfirmDialog.vue')
const ToastList = await component('frame/ToastList.vue')
const { useEngagement } = await import('../../src/stores/engagement.ts')
const { useConfirm } = await import('../../src/stores/confirm.ts')
const { useToasts } = await import('../../src/stores/toasts.ts')
const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms))

describe('the search field', () => {
  const PARTS = [
    {
      kind: 'output',
      total: 2,
      devices: 1,
      hits: [
        {
          title: 'Power supply 1 failed',
          detail: 'sensors, line 1',
          device: 'core-1',
          at: null,
          to: '/e/7/estate/3?record=9&line=1',
        },
      ],
    },
  ]
  const typed = async (text: string) => {
    const served = serve({ 'GET /api/engagements/0/search': PARTS })
    const { wrapper, router } = await shown(SearchField)
    useEngagement().view = { id: 7, role: 'lead' } as never
    await wrapper.find('input').setValue(text)
    await pause(160)
    await settled()
    served.stop()
    return { wrapper, router, asked: served.asked }
  }
  const options = (wrapper: Awaited<ReturnType<typeof typed>>['wrapper']): string[] =>
    wrapper.findAll('[role="option"]').map((option) => option.text())

  it('finds pages by their titles, what the server finds, and leads to all of it', async () => {
    const { wrapper } = await typed('power')
    const all = options(wrapper)
    expect(all[0]).to.contain('Power supply 1 failed').and.contain('core-1, sensors, line 1')
    expect(all.at(-1)).to.contain('“power”').and.contain('2 found')
    await wrapper.find('input').setValue('waivers')
    // Waivers are a view of that page.
    expect(options(wrapper)[0]).to.match(/^Page.*Verdicts/)
  })

  it('is walked by arrows, around its ends, and Enter opens', async () => {
    const { wrapper, router } = await typed('power')
    const field = wrapper.find('input')
    const chosen = (): number => wrapper.findAll('[role="option"]').findIndex((one) => one.classes('at'))
    await field.trigger('keydown', { key: 'ArrowUp' })
    expect(chosen()).to.equal(1)
    await field.trigger('keydown', { key: 'ArrowDown' })
    expect(chosen()).to.equal(0)
    expect(field.attributes('aria-activedescendant')).to.equal('hit-0')
    await field.trigger('keydown', { key: 'Enter' })
    await settled()
    expect(router.currentRoute.value.fullPath).to.equal('/e/7/estate/3?record=9&line=1')
    expect((field.element as HTMLInputElement).value).to.equal('')
  })

  it('says what was wrong with a question', async () => {
    const { wrapper } = await shown(SearchField)
    const served = serve({})
    await wrapper.find('input').setValue('/a(/')
    await pause(160)
    await settled()
    served.stop()
    expect(options(wrapper).join()).to.contain('nobody answers')
  })

  it('asks once when somebody types on', async () => {
    const served = serve({ 'GET /api/engagements/0/search': [] })
    const { wrapper } = await shown(SearchField)
    for (const text of ['p', 'po', 'pow']) await wrapper.find('input').setValue(text)
    await pause(160)
    served.stop()
    expect(served.asked).to.have.length(1)
  })
})

describe('the chronicle', () => {
  const DAY = 86_400_000
  const at = (ago: number): string => new Date(Date.now() - ago * DAY).toISOString()
  const strip = async (ages: readonly number[]) => {
    const { wrapper } = await shown(ChronicleStrip)
    const engagement = useEngagement()
    engagement.snapshots = ages.map((ago, i) => ({ id: i + 1, title: `Snapshot ${i + 1}`, takenAt: at(ago) })) as never
    await settled()
    return { wrapper, engagement }
  }
  const left = (style = ''): number => Number(/left: ([\d.]+)%/.exec(style)?.[1])

  it('puts ticks where they belong in time', async () => {
    const { wrapper } = await strip([100, 50, 0])
    const [first = 0, second = 0, third = 0] = wrapper
      .findAll('.tick')
      .map((tick) => left(tick.attributes('style')))
      .sort((a, b) => a - b)
    expect(third - second).to.be.closeTo(second - first, 0.1)
    expect(third).to.be.closeTo(100, 0.1)
  })

  it('says where today is, unless a snapshot stands there', async () => {
    expect((await strip([100, 50])).wrapper.find('.today').exists()).to.equal(true)
    expect((await strip([100, 0])).wrapper.find('.today').exists()).to.equal(false)
  })

  it('shares a tick where many would stand in one place, says how many, and still reaches each', async () => {
    const { wrapper, engagement } = await strip([100, 2, 1.9, 1.8, 1.7])
    const ticks = wrapper.findAll('.tick')
    expect(ticks).to.have.length(2)
    expect(ticks.find((tick) => tick.find('.many').exists())?.text()).to.contain('4')
    await wrapper.find('[role="slider"]').trigger('keydown', { key: 'ArrowLeft' })
    expect(engagement.b?.id).to.equal(4)
    await wrapper.find('.chosen').trigger('click')
    await settled()
    const items = [...document.querySelectorAll<HTMLElement>('.v-overlay .v-list-item')]
    expect(items.map((item) => item.textContent?.slice(0, 10))).to.deep.equal(
      [5, 4, 3, 2, 1].map((n) => `Snapshot ${n}`),
    )
    items[2]?.click()
    expect(engagement.b?.id).to.equal(3)
  })

  it('selects with a click on another tick, and moves B no further than the ends', async () => {
    const { wrapper, engagement } = await strip([100, 50, 0])
    await wrapper.findAll('button.tick')[0]?.trigger('click')
    expect(engagement.b?.id).to.equal(1)
    await wrapper.find('[role="slider"]').trigger('keydown', { key: 'ArrowLeft' })
    expect(engagement.b?.id).to.equal(1)
    expect(wrapper.find('[role="slider"]').attributes('aria-valuenow')).to.equal('1')
  })

  it('A is what B is compared with: the one before, until another is chosen, and never B itself', async () => {
    const { wrapper, engagement } = await strip([100, 50, 0])
    const handle = (): ReturnType<typeof wrapper.find> => wrapper.find('[role="slider"].a')
    expect([engagement.a?.id, engagement.selectedA]).to.deep.equal([2, null])
    await handle().trigger('keydown', { key: 'ArrowLeft' })
    expect([engagement.a?.id, engagement.selectedA]).to.deep.equal([1, 1])
    await handle().trigger('keydown', { key: 'ArrowRight' })
    await handle().trigger('keydown', { key: 'ArrowRight' })
    expect(engagement.a?.id).to.equal(2)
    engagement.chosenB = 2
    expect(engagement.a?.id).to.equal(1)
  })

  it('says that there is no snapshot yet', async () => {
    const { wrapper } = await strip([])
    expect(wrapper.text()).to.contain('no snapshot yet')
    expect(wrapper.find('[role="slider"]').exists()).to.equal(false)
  })
})

describe('what is asked before something is deleted', () => {
  it('names it, runs after the answer that repeats the verb, and keeps it otherwise', async () => {
    await shown(ConfirmDialog)
    const confirm = useConfirm()
    let deleted = 0
    for (const [button, expected] of [
      [0, 0],
      [1, 1],
    ] as const) {
      const asked = confirm.deletion('snapshot', 'Whole estate', () => deleted++)
      await settled()
      expect(document.querySelector('.v-dialog h2')?.textContent).to.contain('Whole estate')
      const buttons = [...document.querySelectorAll<HTMLElement>('.v-dialog .end .v-btn')]
      expect(buttons[1]?.textContent).to.contain('Delete snapshot')
      buttons[button]?.click()
      await asked
      expect(deleted).to.equal(expected)
    }
  })

  it('a second question takes the place of the first, which is answered with no', async () => {
    await shown(ConfirmDialog)
    const confirm = useConfirm()
    const first = confirm.ask({ title: 'One', action: 'Delete' })
    const second = confirm.ask({ title: 'Two', action: 'Delete' })
    expect(await first).to.equal(false)
    confirm.answer(true)
    expect(await second).to.equal(true)
  })
})

describe('messages at the foot of the page', () => {
  it('lead somewhere, or undo what was done, and go', async () => {
    const { wrapper, router } = await shown(ToastList)
    const toasts = useToasts()
    let undone = 0
    toasts.show('Waived.', { action: { title: 'Undo', run: () => undone++ } })
    toasts.show('The audit has ended.', { to: '/e/7/verdicts' })
    await settled()
    expect(wrapper.findAll('.toast .text').map((text) => text.text())).to.deep.equal([
      'Waived.',
      'The audit has ended.',
    ])
    await wrapper
      .findAll('button')
      .find((button) => button.text() === 'Undo')
      ?.trigger('click')
    expect(undone).to.equal(1)
    await wrapper
      .findAll('button')
      .find((button) => button.text() === 'Show')
      ?.trigger('click')
    await settled()
    expect(router.currentRoute.value.path).to.equal('/e/7/verdicts')
    expect(wrapper.findAll('.toast')).to.have.length(0)
  })
})
