<script setup lang="ts">
import { MergeView } from '@codemirror/merge'
import { EditorState, type Extension } from '@codemirror/state'
import { EditorView, lineNumbers } from '@codemirror/view'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

/** Two texts beside each other: what is equal is collapsed, what differs is marked. */
const props = defineProps<{ a: string; b: string; titleA: string; titleB: string }>()
const host = ref<HTMLElement | null>(null)
let view: MergeView | null = null

const look = EditorView.theme({
  '&': { fontSize: '12.5px', color: 'rgb(var(--v-theme-on-surface))', backgroundColor: 'rgb(var(--v-theme-surface))' },
  '.cm-scroller': { fontFamily: 'var(--mono)', lineHeight: '1.5' },
  '.cm-gutters': {
    backgroundColor: 'rgb(var(--v-theme-surface))',
    color: 'rgb(var(--v-theme-quiet))',
    borderRight: 'var(--hair)',
  },
  '.cm-changedLine': { backgroundColor: 'rgba(var(--v-theme-brass), 0.12) !important' },
  '.cm-changedText': {
    background: 'none !important',
    textDecoration: 'underline',
    textDecorationColor: 'rgb(var(--v-theme-brass))',
    textDecorationThickness: '2px',
    textUnderlineOffset: '3px',
  },
  '.cm-collapsedLines': {
    color: 'rgb(var(--v-theme-quiet))',
    background: 'rgb(var(--v-theme-background)) !important',
    padding: '4px 12px',
    fontFamily: 'inherit',
  },
  '.cm-collapsedLines:before, .cm-collapsedLines:after': { content: '"" !important' },
  '.cm-changeGutter': { width: '3px', paddingLeft: '0' },
  '&.cm-merge-a .cm-changedLineGutter, &.cm-merge-b .cm-changedLineGutter': { background: 'rgb(var(--v-theme-brass))' },
})
function side(text: string, label: string): { doc: string; extensions: Extension } {
  return {
    doc: text,
    extensions: [
      lineNumbers(),
      EditorView.cspNonce.of(document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.nonce ?? ''),
      look,
      EditorState.readOnly.of(true),
      EditorView.editable.of(false),
      EditorView.contentAttributes.of({ 'aria-label': label, tabindex: '0' }),
    ],
  }
}
function make(): void {
  view?.destroy()
  if (!host.value) return
  view = new MergeView({
    a: side(props.a, props.titleA),
    b: side(props.b, props.titleB),
    parent: host.value,
    collapseUnchanged: { margin: 3, minSize: 6 },
    gutter: true,
    diffConfig: { timeout: 2000 },
  })
}
onMounted(make)
watch(() => [props.a, props.b], make)
onBeforeUnmount(() => view?.destroy())
</script>

<template>
  <div class="both">
    <div class="heads">
      <span>A · {{ titleA }}</span>
      <span>B · {{ titleB }}</span>
    </div>
    <div ref="host" class="host" role="region" :aria-label="$t('changes.sidesLabel')" />
  </div>
</template>

<style scoped>
.heads {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  padding: 6px 12px;
  border-bottom: var(--hair);
  font-weight: 600;
}
.host {
  overflow: auto;
  max-height: 70vh;
}
</style>
