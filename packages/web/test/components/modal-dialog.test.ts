import { expect } from 'chai'
import { component, settled, shown } from './stage.ts'

const ModalDialog = await component('shared/ModalDialog.vue')
const ActionButton = await component('shared/ActionButton.vue')

/** A page with a button that has the focus, and a field in a dialog that stands elsewhere. */
function page(): { button: HTMLButtonElement; field: HTMLTextAreaElement } {
  const button = document.body.appendChild(document.createElement('button'))
  const elsewhere = document.body.appendChild(document.createElement('div'))
  elsewhere.className = 'v-overlay'
  const field = elsewhere.appendChild(document.createElement('textarea'))
  return { button, field }
}
const dialog = (modelValue: boolean) =>
  shown(ModalDialog, { props: { title: 'Delete snapshot', modelValue }, slots: { default: 'It is gone then.' } })

describe('a dialog', () => {
  it('gives the focus back where it was', async () => {
    const { wrapper } = await dialog(false)
    const { button } = page()
    button.focus()
    await wrapper.setProps({ modelValue: true } as never)
    await settled()
    expect(document.querySelector('.v-dialog')?.textContent).to.contain('Delete snapshot')
    ;(document.querySelector('.v-overlay__content') as HTMLElement).focus()
    await wrapper.setProps({ modelValue: false } as never)
    await settled()
    expect(document.activeElement).to.equal(button)
  })

  it('lets go of the focus where the page had none: its keys are heard again', async () => {
    const { wrapper } = await dialog(false)
    ;(document.activeElement as HTMLElement | null)?.blur()
    await wrapper.setProps({ modelValue: true } as never)
    await settled()
    ;(document.querySelector('.v-overlay__content') as HTMLElement).focus()
    await wrapper.setProps({ modelValue: false } as never)
    await settled()
    expect(document.activeElement).to.equal(document.body)
  })

  it('takes nothing from who types in another dialog, while it is not open itself', async () => {
    const { wrapper } = await dialog(false)
    const { field } = page()
    field.focus()
    await wrapper.setProps({ title: 'Another title' } as never)
    wrapper.unmount()
    await settled()
    expect(document.activeElement).to.equal(field)
    // A dialog that comes up closed, as those of a page that is just being drawn.
    const host = document.body.appendChild(document.createElement('div'))
    const { mount } = await import('@vue/test-utils')
    mount(ModalDialog, {
      attachTo: host,
      props: { title: 'Closed', modelValue: false } as never,
      global: { stubs: { VDialog: true, VCard: true } },
    })
    await settled()
    expect(document.activeElement).to.equal(field)
  })

  it('leaves the focus to whoever put it elsewhere while it closed', async () => {
    const { wrapper } = await dialog(false)
    const { button } = page()
    button.focus()
    await wrapper.setProps({ modelValue: true } as never)
    await settled()
    const next = document.body.appendChild(document.createElement('button'))
    next.focus()
    await wrapper.setProps({ modelValue: false } as never)
    await settled()
    expect(document.activeElement).to.equal(next)
  })
})

describe('a button that may not be pressed yet', () => {
  it('says why, beside itself', async () => {
    const { wrapper } = await shown(ActionButton, { props: { why: 'Select a device.' }, slots: { default: 'Waive' } })
    expect(wrapper.find('button').attributes('disabled')).to.not.equal(undefined)
    expect(wrapper.find('[role="note"]').text()).to.equal('Select a device.')
  })
  it('says nothing where it may', async () => {
    const { wrapper } = await shown(ActionButton, { props: { why: '' }, slots: { default: 'Waive' } })
    expect(wrapper.find('button').attributes('disabled')).to.equal(undefined)
    expect(wrapper.find('[role="note"]').exists()).to.equal(false)
  })
})
