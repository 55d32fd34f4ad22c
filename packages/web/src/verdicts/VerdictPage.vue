<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, wordsOf } from '../api/client.ts'
import type { GridView, VerdictView } from '../api/types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { usePageKeys } from '../shared/keys.ts'
import { isFinding } from '../shared/outcomes.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import WaiveDialog from './WaiveDialog.vue'

/** One verdict opened: statement, branch, lines, what is missing and extra, remedy, references. */
const route = useRoute()
const router = useRouter()
const engagement = useEngagement()
const exhibit = useExhibit()
const view = ref<VerdictView | null>(null)
const order = ref<number[]>([])
const problem = ref('')
const copied = ref('')
const verdict = computed(() => view.value?.verdict)
const remedy = computed(() => verdict.value?.remedy ?? null)
const base = computed(() => `/e/${engagement.id}`)

const waiving = ref(false)
async function load(): Promise<void> {
  const { audit, verdict: id } = route.params
  if (audit === undefined || id === undefined) return
  try {
    view.value = await api.get<VerdictView>(`${engagement.base}/audits/${String(audit)}/verdicts/${String(id)}`)
    problem.value = ''
    const first = view.value.verdict.exhibits[0]
    if (first) await showRecord(first.record)
    if (order.value.length === 0) order.value = await objections(String(audit))
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
watch([() => route.params['audit'], () => route.params['verdict']], load, { immediate: true })

/** Verdicts to go through one after the other: those that object and that nobody has waived, device by device. */
async function objections(audit: string): Promise<number[]> {
  const grid = await api.get<GridView>(`${engagement.base}/audits/${audit}/grid`)
  return grid.cells.filter((cell) => isFinding(cell.outcome) && !cell.waived).map((cell) => cell.id)
}
const position = computed(() => order.value.indexOf(view.value?.id ?? -1))
function step(by: number): void {
  const count = order.value.length
  if (count === 0) return
  const next = order.value[position.value < 0 ? 0 : (position.value + by + count) % count]
  if (next !== undefined) void router.replace(`${base.value}/verdicts/${String(route.params['audit'])}/${next}`)
}

async function showRecord(record: string, at = 0): Promise<void> {
  const own = verdict.value?.exhibits.filter((one) => one.record === record) ?? []
  await exhibit.show(
    Number(record),
    own.map(({ from, to, absent }) => ({ from, to, absent: absent === true })),
  )
  exhibit.at = Math.max(0, Math.min(at, own.length - 1))
}
function showExhibit(index: number): void {
  const chosen = verdict.value?.exhibits[index]
  if (!chosen) return
  if (!exhibit.open) exhibit.toggle()
  const within = verdict.value?.exhibits.filter((one) => one.record === chosen.record).indexOf(chosen) ?? 0
  void showRecord(chosen.record, within)
}
const where = (one: { device?: string; from: number; to: number; absent?: true }): string =>
  `${one.device === undefined ? '' : `${one.device}, `}${one.absent ? 'searched ' : ''}${one.from === one.to ? `line ${one.from}` : `lines ${one.from}–${one.to}`}`
async function copy(lines: readonly string[]): Promise<void> {
  try {
    await navigator.clipboard.writeText(lines.join('\n'))
    copied.value = 'Copied.'
  } catch {
    copied.value = 'The browser did not allow copying.'
  }
  setTimeout(() => (copied.value = ''), 2500)
}
usePageKeys([
  { key: 'n', does: 'Next violation or doubt', run: () => step(1) },
  { key: 'p', does: 'Previous violation or doubt', run: () => step(-1) },
])
</script>

<template>
  <div class="page">
    <ProblemNote :text="problem" />
    <template v-if="view && verdict">
      <div class="trail">
        <p class="quiet">
          <router-link :to="`${base}/verdicts`">Verdicts</router-link> ▸
          <router-link :to="`${base}/estate/${view.deviceId}`">{{ verdict.device }}</router-link>
        </p>
        <span v-if="order.length > 0" class="steps">
          <span class="quiet">{{
            position >= 0 ? `${position + 1} of ${order.length} to settle` : `${order.length} to settle`
          }}</span>
          <v-btn size="small" title="Previous (P)" @click="step(-1)">Previous</v-btn
          ><v-btn size="small" title="Next (N)" @click="step(1)">Next</v-btn>
        </span>
      </div>
      <h1>{{ view.rule?.title ?? verdict.rule }}</h1>
      <p class="line">
        <VerdictMark :outcome="verdict.outcome" :waived="verdict.waived !== undefined" :size="14" /><SeverityNotches
          :severity="verdict.severity"
        /><span class="quiet"
          ><code>{{ verdict.rule }}</code> · {{ view.rule?.topic }} · {{ view.rule?.profile }}</span
        >
      </p>
      <p class="note panel">{{ verdict.note }}</p>

      <section v-if="verdict.waived" class="panel borne">
        <div v-for="(waiver, i) in verdict.waived" :key="i">
          <strong>Waived until {{ waiver.expires.slice(0, 10) }}</strong
          ><template v-if="waiver.subject"> for “{{ waiver.subject }}”</template>: {{ waiver.reason }}
          <span class="quiet">Borne by {{ waiver.owner }}.</span>
        </div>
        <router-link :to="`${base}/verdicts?view=waivers`">All waivers</router-link>
      </section>
      <p v-else-if="engagement.may.waive && isFinding(verdict.outcome)">
        <v-btn size="small" @click="waiving = true">Waive…</v-btn>
      </p>
      <WaiveDialog v-if="waiving" v-model="waiving" :verdict="verdict" :audit-id="view.auditId" @waived="load" />

      <section>
        <h2>Lines</h2>
        <ul class="exhibits">
          <li v-for="(one, i) in verdict.exhibits.slice(0, 20)" :key="i">
            <button type="button" class="exhibit" :class="{ absent: one.absent }" @click="showExhibit(i)">
              <span class="quiet">{{ where(one) }}</span><code v-if="one.text">{{
                one.text.split('\n').slice(0, 3).join('\n')
              }}</code
              ><span v-else class="quiet">the whole record, without finding it</span>
            </button>
          </li>
        </ul>
        <p v-if="verdict.exhibits.length > 20" class="quiet">
          and {{ verdict.exhibits.length - 20 }} more, in the panel
        </p>
      </section>

      <section v-if="verdict.missing.length > 0 || verdict.extra.length > 0" class="two">
        <div v-if="verdict.missing.length > 0">
          <h2>Missing</h2>
          <pre class="panel mono">{{ verdict.missing.join('\n') }}</pre>
        </div>
        <div v-if="verdict.extra.length > 0">
          <h2>Extra</h2>
          <pre class="panel mono">{{ verdict.extra.join('\n') }}</pre>
        </div>
      </section>

      <section v-if="verdict.subjects.length > 1">
        <h2>Each by itself</h2>
        <table class="rows panel">
          <tbody>
            <tr v-for="subject in verdict.subjects" :key="subject.name">
              <td><VerdictMark :outcome="subject.outcome" /></td>
              <td>{{ subject.note }}</td>
            </tr>
          </tbody>
        </table>
      </section>

      <section v-if="remedy">
        <h2>Remedy</h2>
        <p v-if="'words' in remedy" class="panel words">{{ remedy.words }}</p>
        <template v-else>
          <div v-if="remedy.risk !== 'none' || remedy.check.length > 0" class="risk panel">
            <strong>{{
              remedy.risk === 'session'
                ? 'May cut off the session that makes the change.'
                : remedy.risk === 'traffic'
                  ? 'May stop traffic.'
                  : ''
            }}</strong>
            <template v-if="remedy.check.length > 0"
              >{{ ' ' }}First make sure:
              <ul>
                <li v-for="line in remedy.check" :key="line">{{ line }}</li>
              </ul></template
            >
          </div>
          <div class="two">
            <div>
              <div class="sub">
                <h3>Commands</h3>
                <v-btn size="x-small" variant="text" @click="copy(remedy.commands)">Copy</v-btn>
              </div>
              <pre class="panel mono" data-remedy>{{ remedy.commands.join('\n') }}</pre>
            </div>
            <div>
              <div class="sub">
                <h3>Rollback</h3>
                <v-btn size="x-small" variant="text" @click="copy(remedy.rollback)">Copy</v-btn>
              </div>
              <pre class="panel mono">{{ remedy.rollback.join('\n') }}</pre>
              <p v-if="remedy.unrestored" class="quiet">Not brought back: {{ remedy.unrestored }}</p>
            </div>
          </div>
          <p
            v-if="remedy.commands.concat(remedy.rollback).some((line) => /<\S+ [0-9a-f]{8}>/.test(line))"
            class="quiet"
          >
            Supply what stands in &lt; &gt;: its number is that of the mark in the lines.
          </p>
          <p class="quiet" role="status">{{ copied }}</p>
        </template>
      </section>

      <section>
        <h2>How it was decided</h2>
        <p>{{ view.rule?.statement }}</p>
        <p class="branches">
          <span
            v-for="branch in view.rule?.branches"
            :key="branch.id"
            class="branch"
            :class="{ took: branch.id === verdict.branch }"
            ><code>{{ branch.id }}</code> <VerdictMark :outcome="branch.outcome" :size="10" /><span
              v-if="branch.id === verdict.branch"
              class="sr"
            >
              (decided)</span
            ></span
          >
        </p>
        <p v-if="view.values.length > 0" class="quiet">
          Values:
          <span v-for="(value, i) in view.values" :key="value.name"
            >{{ i > 0 ? '; ' : '' }}<code>{{ value.name }}</code> = {{ value.value }} ({{
              value.from === 'engagement'
                ? 'set for this engagement'
                : value.from === 'default'
                  ? 'default'
                  : `for “${value.from}”`
            }})</span
          >
        </p>
      </section>

      <section>
        <h2>Requirements it speaks to</h2>
        <table class="rows panel">
          <tbody>
            <tr v-for="reference in view.references" :key="reference.reference">
              <td>{{ reference.framework }}</td>
              <td>
                <router-link
                  :to="`${base}/verdicts?view=list&requirement=${encodeURIComponent(reference.reference)}`"
                  >{{ reference.number }}</router-link
                >
              </td>
              <td>{{ reference.title }}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </template>
  </div>
</template>

<style scoped>
section {
  margin-top: 16px;
}
section > h2 {
  margin-bottom: 6px;
}
.trail,
.steps {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  flex-wrap: wrap;
}
.line {
  display: flex;
  gap: 18px;
  align-items: center;
  margin: 8px 0 10px;
  flex-wrap: wrap;
}
.note {
  padding: 10px 14px;
  font-size: 15px;
  border-left: 3px solid rgb(var(--v-theme-on-surface));
}
.exhibits {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 4px;
}
.exhibit {
  display: flex;
  gap: 12px;
  width: 100%;
  text-align: left;
  font: inherit;
  color: inherit;
  padding: 3px 10px;
  background: rgb(var(--v-theme-brass-fill));
  border-left: 4px solid rgb(var(--v-theme-brass));
  cursor: pointer;
  min-height: 26px;
  align-items: baseline;
}
.exhibit .quiet {
  white-space: nowrap;
  font-size: 12.5px;
  color: rgb(var(--v-theme-on-surface));
}
.exhibit code {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.absent {
  background: transparent;
  border-left-style: dotted;
}
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 12px;
}
.sub {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
pre {
  margin: 4px 0 0;
  padding: 8px 12px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.risk,
.words {
  padding: 8px 14px;
  margin-bottom: 8px;
  white-space: pre-line;
}
.risk {
  border-left: 3px solid rgb(var(--v-theme-fail));
}
.borne {
  padding: 8px 14px;
  margin-top: 8px;
  border-left: 3px dashed rgb(var(--v-theme-waived));
}
.risk ul {
  margin: 2px 0 0;
  padding-left: 18px;
  white-space: normal;
}
.branches {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 6px 0;
}
.branch {
  display: inline-flex;
  gap: 8px;
  align-items: center;
  padding: 2px 8px;
  border: var(--hair);
  border-radius: 3px;
  font-size: 12.5px;
}
.took {
  border-color: rgb(var(--v-theme-primary));
  box-shadow: inset 0 -2px rgb(var(--v-theme-primary));
}
</style>
