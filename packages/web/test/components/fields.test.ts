import { expect } from 'chai'
import { component, settled, shown } from './stage.ts'

const DateField = await component('shared/DateField.vue')
const TimeField = await component('shared/TimeField.vue')

/** A field with a value that is kept as a page would keep it. */
async function field(tested: typeof DateField, modelValue: string, props: object = {}) {
  const kept: string[] = []
  const { wrapper } = await shown(tested, {
    props: {
      label: 'Due',
      modelValue,
      'onUpdate:modelValue': (value: string) => {
        kept.push(value)
        void wrapper.setProps({ modelValue: value } as never)
      },
      ...props,
    },
  })
  const type = async (text: string): Promise<void> => {
    await wrapper.find('input').setValue(text)
    await wrapper.find('input').trigger('blur')
    await settled()
  }
  return { wrapper, kept, type }
}

describe('the field of a day', () => {
  for (const [text, isDay] of [
    ['2026-11-30', true],
    ['2028-02-29', true],
    ['', true],
    ['2026-02-29', false],
    ['2026-13-01', false],
    ['30.11.2026', false],
    ['11/30/2026', false],
    ['2026-1-3', false],
  ] as const)
    it(`${text || '(nothing)'}: ${isDay ? 'taken' : 'refused, in words'}`, async () => {
      const { wrapper, type } = await field(DateField, '2026-01-01')
      await type(text)
      expect(wrapper.find('.v-messages__message').exists()).to.equal(!isDay)
    })

  it('takes off blanks around a pasted day', async () => {
    const { kept, type } = await field(DateField, '')
    await type(' 2026-12-24 ')
    expect(kept.at(-1)).to.equal('2026-12-24')
  })

  it('opens a picker at its day, and takes the day that is picked, wherever the browser is', async () => {
    const { wrapper, kept } = await field(DateField, '2026-11-30')
    await wrapper.find('[aria-label="Pick a day for Due"], .v-btn').trigger('click')
    await settled()
    expect(document.querySelector('.v-date-picker')?.textContent).to.contain('Nov').and.contain('2026')
    const day = [...document.querySelectorAll<HTMLElement>('.v-date-picker-month__day-btn')].find(
      (one) => one.textContent?.trim() === '17',
    )
    day?.click()
    await settled()
    expect(kept).to.deep.equal(['2026-11-17'])
  })

  it('shows what the server refused of it', async () => {
    const { wrapper } = await field(DateField, '2026-11-30', { errorMessages: 'Must be in the future.' })
    expect(wrapper.text()).to.contain('Must be in the future.')
  })
})

describe('the field of a time', () => {
  for (const [text, isTime] of [
    ['00:00', true],
    ['23:59', true],
    ['24:00', false],
    ['7:30', false],
    ['07:60', false],
    ['7 am', false],
  ] as const)
    it(`${text}: ${isTime ? 'taken' : 'refused, in words'}`, async () => {
      const { wrapper, type } = await field(TimeField, '03:00')
      await type(text)
      expect(wrapper.find('.v-messages__message').exists()).to.equal(!isTime)
    })
})
