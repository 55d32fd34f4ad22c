<script setup lang="ts">
import {
  autocompletion,
  completionKeymap,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands'
import { yaml } from '@codemirror/lang-yaml'
import { HighlightStyle, bracketMatching, indentOnInput, syntaxHighlighting } from '@codemirror/language'
import { lintGutter, lintKeymap, setDiagnostics } from '@codemirror/lint'
import { EditorState } from '@codemirror/state'
import { EditorView, drawSelection, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view'
import { offersAt, placeAt } from '@jurybox/core/authoring'
import { tags } from '@lezer/highlight'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import schema from '../../../../docs/formats/benchmark.schema.json'

/** A benchmark as YAML: what can stand where the cursor is, and what is wrong at its own line. */
const props = defineProps<{ problems: readonly { line: number; message: string }[]; label: string }>()
const text = defineModel<string>({ required: true })
const host = ref<HTMLElement | null>(null)
let view: EditorView | null = null

function offers({ state, pos, explicit }: CompletionContext): CompletionResult | null {
  const place = placeAt(state.doc.toString(), pos)
  if (place.word === '' && !explicit) return null
  const options = offersAt(schema, place).map((label) => ({
    label,
    type: place.at === 'key' ? 'property' : 'constant',
    ...(place.at === 'key' ? { apply: `${label}: ` } : {}),
  }))
  return options.length === 0 ? null : { from: place.from, options }
}

const look = EditorView.theme({
  '&': {
    fontSize: '12.5px',
    height: '100%',
    color: 'rgb(var(--v-theme-on-surface))',
    backgroundColor: 'rgb(var(--v-theme-surface))',
  },
  '.cm-scroller': { fontFamily: 'var(--mono)', lineHeight: '1.5' },
  '.cm-gutters': {
    backgroundColor: 'rgb(var(--v-theme-surface))',
    color: 'rgb(var(--v-theme-quiet))',
    borderRight: 'var(--hair)',
  },
  '.cm-activeLine': { backgroundColor: 'rgba(var(--v-theme-brass), 0.1)' },
  '.cm-activeLineGutter': { backgroundColor: 'transparent' },
  '.cm-cursor': { borderLeftColor: 'rgb(var(--v-theme-on-surface))' },
  '&.cm-focused .cm-selectionBackground, .cm-selectionBackground': {
    backgroundColor: 'rgb(var(--v-theme-brass-fill)) !important',
  },
  '.cm-tooltip': {
    backgroundColor: 'rgb(var(--v-theme-surface))',
    color: 'rgb(var(--v-theme-on-surface))',
    border: 'var(--hair)',
  },
  '.cm-tooltip-autocomplete ul li[aria-selected]': {
    backgroundColor: 'rgb(var(--v-theme-primary))',
    color: 'rgb(var(--v-theme-on-primary))',
  },
  '.cm-diagnostic-error': { borderLeftColor: 'rgb(var(--v-theme-fail))' },
})
const ink = HighlightStyle.define([
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: 'rgb(var(--v-theme-primary))' },
  { tag: tags.comment, color: 'rgb(var(--v-theme-quiet))', fontStyle: 'italic' },
  { tag: [tags.string, tags.quote], color: 'rgb(var(--v-theme-pass))' },
])

onMounted(() => {
  if (!host.value) return
  view = new EditorView({
    parent: host.value,
    state: EditorState.create({
      doc: text.value,
      extensions: [
        EditorView.cspNonce.of(document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.nonce ?? ''),
        lineNumbers(),
        history(),
        drawSelection(),
        indentOnInput(),
        bracketMatching(),
        highlightActiveLine(),
        lintGutter(),
        EditorView.lineWrapping,
        yaml(),
        syntaxHighlighting(ink),
        look,
        autocompletion({ override: [offers], icons: false }),
        keymap.of([...completionKeymap, ...defaultKeymap, ...historyKeymap, ...lintKeymap]),
        EditorView.contentAttributes.of({ 'aria-label': props.label, tabindex: '0', spellcheck: 'false' }),
        EditorView.updateListener.of(({ docChanged, state }) => {
          if (docChanged) text.value = state.doc.toString()
        }),
      ],
    }),
  })
  mark()
})
onBeforeUnmount(() => view?.destroy())

/** What was changed elsewhere comes in as one step that can be undone. */
watch(text, (now) => {
  if (view && now !== view.state.doc.toString())
    view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: now } })
})
watch(() => props.problems, mark)
function mark(): void {
  if (!view) return
  const { state } = view
  const diagnostics = props.problems.map(({ line, message }) => {
    const at = state.doc.line(Math.min(Math.max(line, 1), state.doc.lines))
    return { from: at.from + (/^\s*/.exec(at.text)?.[0].length ?? 0), to: at.to, severity: 'error' as const, message }
  })
  view.dispatch(setDiagnostics(state, diagnostics))
}
/** Brings a line into sight and the cursor to it. */
function goTo(line: number): void {
  if (!view) return
  const { from } = view.state.doc.line(Math.min(Math.max(line, 1), view.state.doc.lines))
  view.dispatch({ selection: { anchor: from }, effects: EditorView.scrollIntoView(from, { y: 'start', yMargin: 30 }) })
}
defineExpose({ goTo })
</script>

<template><div ref="host" class="editor panel" /></template>

<style scoped>
.editor {
  height: 100%;
  min-height: 240px;
  overflow: hidden;
}
</style>
