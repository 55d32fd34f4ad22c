import { t } from '../messages/index.ts'
import { type TrialView, tryRules } from '@jurybox/api/rules'
import { type DeviceRow, listDevices } from '@jurybox/api/devices'
import type { DraftRule } from '@jurybox/core/authoring'
import { changedText, withRule } from '@jurybox/core/authoring'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'
import { LineCounter, isMap, isNode, isSeq, parseDocument } from 'yaml'
import { wordsOf, call } from '../api/client.ts'
import { keptIn } from '../shared/kept.ts'
import { STARTER } from '../rules/starter.ts'
import { useEngagement } from './engagement.ts'

export interface TextProblem {
  readonly line: number
  readonly message: string
}

/** So long after the last change the devices are asked. */
const PAUSE_MS = 250

/** The rules that are being written: one text, which every view edits, and what the devices say of the rule in hand. */
export const useRuleBench = defineStore('rule-bench', () => {
  const engagement = useEngagement()
  const draft = computed(() => keptIn<string>(`rules of engagement ${engagement.id}`))
  const text = ref(STARTER)
  /** Id of the rule in hand. */
  const chosen = ref('')

  const parsed = computed(() => {
    const counter = new LineCounter()
    const document = parseDocument(text.value, { lineCounter: counter })
    const broken = document.errors[0]
    const rules: unknown = document.get('rules')
    const places = isSeq(rules)
      ? rules.items.map((item) => ({
          id: isMap(item) ? String(item.get('id') ?? '') : '',
          line: isNode(item) && item.range ? counter.linePos(item.range[0]).line : 1,
        }))
      : []
    return {
      broken: broken ? (broken.message.split('\n')[0] ?? '') : '',
      data: broken ? null : (document.toJS({ maxAliasCount: 50 }) as Record<string, unknown> | null),
      places,
    }
  })
  const ruleIds = computed(() => parsed.value.places.map(({ id }) => id))
  const place = computed(() => Math.max(0, ruleIds.value.indexOf(chosen.value)))
  const ruleId = computed(() => ruleIds.value[place.value] ?? '')
  const rule = computed(() => {
    const rules: unknown = parsed.value.data?.['rules']
    const found: unknown = Array.isArray(rules) ? rules[place.value] : null
    return typeof found === 'object' && found !== null && !Array.isArray(found)
      ? (found as Record<string, unknown>)
      : null
  })
  const line = computed(() => parsed.value.places[place.value]?.line ?? 1)

  /** Changes one part of the rule in hand; undefined takes it away. */
  function change(path: readonly (string | number)[], value: unknown): void {
    if (!rule.value) return
    const renamed = path.length === 1 && path[0] === 'id' ? String(value) : null
    text.value = changedText(text.value, ['rules', place.value, ...path], value)
    if (renamed !== null) chosen.value = renamed
  }
  function add(draft: DraftRule): void {
    const added = withRule(text.value, draft)
    text.value = added.text
    chosen.value = added.id
  }
  function remove(): void {
    text.value = changedText(text.value, ['rules', place.value], undefined)
  }

  const devices = ref<DeviceRow[]>([])
  /** Null: all of them. */
  const asked = ref<readonly number[] | null>(null)
  /** The snapshot whose answers stand beside; 0 for none. */
  const beside = ref<number | null>(null)
  const besideId = computed(() => {
    const { snapshots, b } = engagement
    if (beside.value !== null) return beside.value
    return snapshots[snapshots.findIndex(({ id }) => id === b?.id) - 1]?.id ?? 0
  })
  const trial = ref<TrialView | null>(null)
  const wrong = ref('')
  const busy = ref(false)
  const took = ref<number | null>(null)
  let running: AbortController | null = null
  let again = false

  /** One trial at a time: what changes meanwhile is tried when it is done. */
  async function tryOut(): Promise<void> {
    if (running) {
      again = true
      return
    }
    const controller = (running = new AbortController())
    busy.value = true
    const began = performance.now()
    try {
      const answer = await call(
        tryRules,
        {
          body: {
            text: text.value,
            snapshotId: engagement.b?.id ?? null,
            besideId: besideId.value || null,
            devices: asked.value,
            rules: ruleId.value === '' ? null : [ruleId.value],
          },
        },
        controller.signal,
      )
      wrong.value = answer.wrong ?? ''
      if (answer.wrong === null) {
        trial.value = answer
        took.value = performance.now() - began
      }
    } catch (error) {
      wrong.value = controller.signal.aborted ? t('stores.trialStoppedTheNextChange') : wordsOf(error)
    }
    running = null
    busy.value = false
    if (again) {
      again = false
      void tryOut()
    }
  }
  function stop(): void {
    again = false
    running?.abort()
  }
  const problems = computed<TextProblem[]>(() =>
    wrong.value.split('\n').flatMap((message) => {
      const found = /\bline (\d+)/i.exec(message)
      return found ? [{ line: Number(found[1]), message }] : []
    }),
  )

  let timer: ReturnType<typeof setTimeout> | undefined
  let watching = false
  /** Begins to put the text to the devices of the engagement that is open. */
  async function open(): Promise<void> {
    devices.value = (await call(listDevices, { query: { snapshot: engagement.b?.id } })).devices
    if (!watching) text.value = draft.value.read() ?? text.value
    void tryOut()
    if (watching) return
    watching = true
    watch(text, (written) => draft.value.write(written === STARTER ? null : written))
    watch([text, ruleId, asked, besideId, () => engagement.b?.id], () => {
      clearTimeout(timer)
      timer = setTimeout(() => void tryOut(), PAUSE_MS)
    })
    watch(
      () => engagement.id,
      () => {
        text.value = draft.value.read() ?? STARTER
        chosen.value = ''
        asked.value = null
        beside.value = null
        trial.value = null
      },
    )
  }

  return {
    text,
    chosen,
    parsed,
    ruleIds,
    ruleId,
    rule,
    line,
    change,
    add,
    remove,
    devices,
    asked,
    beside,
    besideId,
    trial,
    wrong,
    busy,
    took,
    problems,
    open,
    tryOut,
    stop,
  }
})
