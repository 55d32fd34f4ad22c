import { onBeforeUnmount, onMounted } from 'vue'
import { onBeforeRouteLeave } from 'vue-router'
import { t } from '../messages/index.ts'
import { useConfirm } from '../stores/confirm.ts'

/**
 * Asks before a page goes away with changes that nobody saved: another page of the product, a reload, or a closed tab.
 * @param isDirty whether there are such changes now
 */
export function useUnsaved(isDirty: () => boolean): void {
  const confirm = useConfirm()
  const hold = (event: BeforeUnloadEvent): void => {
    if (isDirty()) event.preventDefault()
  }
  onMounted(() => window.addEventListener('beforeunload', hold))
  onBeforeUnmount(() => window.removeEventListener('beforeunload', hold))
  onBeforeRouteLeave(async () => {
    if (!isDirty()) return true
    return confirm.ask({
      title: t('shared.discardChanges'),
      text: t('shared.changesAreNotSaved'),
      action: t('shared.discard'),
    })
  })
}
