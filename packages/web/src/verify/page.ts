import { verify } from '../messages/verify.ts'
import type { Verified, VerifyAnswer, VerifyTask } from './worker.ts'

/** The page that verifies packs by itself: one file, opened from anywhere, with no server. */
const texts: Readonly<Record<string, string>> = verify
const t = (key: string, values: Readonly<Record<string, string | number>> = {}): string =>
  (texts[key.slice('verify.'.length)] ?? '').replace(/\{(\w+)\}/g, (_, name: string) => String(values[name] ?? ''))

function element<K extends keyof HTMLElementTagNameMap>(
  tag: K,
  attributes: Readonly<Record<string, string>>,
  ...children: readonly (Node | string)[]
): HTMLElementTagNameMap[K] {
  const made = document.createElement(tag)
  for (const [name, value] of Object.entries(attributes)) made.setAttribute(name, value)
  made.append(...children)
  return made
}

const pack = element('input', { type: 'file', id: 'pack', accept: '.zip,application/zip', required: '' })
const previous = element('input', { type: 'file', id: 'previous', accept: '.zip,application/zip' })
const key = element('input', { type: 'text', id: 'key', autocomplete: 'off', spellcheck: 'false' })
const button = element('button', { type: 'submit' }, t('verify.verify'))
const result = element('section', { 'aria-live': 'polite' })
const field = (input: HTMLInputElement, label: string): HTMLElement =>
  element('div', { class: 'field' }, element('label', { for: input.id }, label), input)
const form = element(
  'form',
  {},
  field(pack, t('verify.pack')),
  field(key, t('verify.key')),
  field(previous, t('verify.previous')),
  button,
)
document.title = t('verify.title')
document.body.append(
  element(
    'main',
    {},
    element('h1', {}, t('verify.title')),
    element('p', { class: 'quiet' }, t('verify.note')),
    form,
    result,
  ),
)

const source = document.getElementById('worker')?.textContent ?? ''
const address = URL.createObjectURL(new Blob([source], { type: 'text/javascript' }))

form.addEventListener('submit', (event) => {
  event.preventDefault()
  void run()
})

async function run(): Promise<void> {
  const [file, before] = [pack.files?.[0], previous.files?.[0]]
  if (!file) return
  button.disabled = true
  result.replaceChildren(element('p', {}, t('verify.checking')))
  try {
    const trusted = key.value.trim()
    const answer = await asked({
      pack: await file.arrayBuffer(),
      previous: before ? await before.arrayBuffer() : null,
      key: trusted === '' ? null : trusted,
    })
    if ('error' in answer) throw new Error(answer.error)
    result.replaceChildren(...shown(answer, trusted !== ''))
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error)
    result.replaceChildren(element('p', { class: 'fail' }, t('verify.unreadable', { why })))
  } finally {
    button.disabled = false
  }
}

async function asked(task: VerifyTask): Promise<VerifyAnswer> {
  const worker = new Worker(address)
  try {
    return await new Promise<VerifyAnswer>((resolve, reject) => {
      worker.onmessage = ({ data }: MessageEvent<VerifyAnswer>) => resolve(data)
      worker.onerror = ({ message }) => reject(new Error(message))
      worker.postMessage(task)
    })
  } finally {
    worker.terminate()
  }
}

function shown({ verification, words }: Verified, isTrusted: boolean): HTMLElement[] {
  const { manifest, signed, stamped, faults, recomputed } = verification
  const said =
    faults.length === 0
      ? t('verify.whole')
      : faults.length === 1
        ? t('verify.oneFault')
        : t('verify.faults', { n: faults.length })
  const rows: [string, string][] = manifest
    ? [
        [t('verify.engagement'), `${manifest.engagement.title} (${manifest.engagement.client})`],
        [t('verify.snapshot'), `${manifest.snapshot.title}, ${manifest.snapshot.takenAt}`],
        [t('verify.judged'), manifest.audit.judgedAt],
        [t('verify.made'), `${manifest.madeAt}, ${manifest.madeBy}`],
        [t('verify.files'), String(manifest.files)],
        [t('verify.secrets'), manifest.masked ? t('verify.masked') : t('verify.real')],
        ...signed.flatMap(({ by, at, fingerprint }): [string, string][] => [
          [t('verify.signedBy'), `${by}, ${at}`],
          [t('verify.fingerprint'), fingerprint],
        ]),
      ]
    : []
  if (stamped) {
    rows.push([t('verify.stamped'), `${stamped.at}, ${stamped.authority}`])
    rows.push([t('verify.certificate'), stamped.certificate])
  }
  if (recomputed) {
    rows.push([t('verify.verdicts'), t('verify.equal', recomputed)])
    if (recomputed.notReproduced > 0) rows.push(['', t('verify.notReproduced', { n: recomputed.notReproduced })])
  }
  return [
    element('h2', { class: faults.length === 0 ? 'pass' : 'fail' }, said),
    ...(signed.length > 0 && !isTrusted ? [element('p', {}, t('verify.unknownKey'))] : []),
    ...(faults.length === 0
      ? []
      : [
          element(
            'table',
            {},
            element(
              'thead',
              {},
              element(
                'tr',
                {},
                element('th', { scope: 'col' }, t('verify.fault')),
                element('th', { scope: 'col' }, t('verify.where')),
              ),
            ),
            element(
              'tbody',
              {},
              ...faults
                .slice(0, 500)
                .map(({ code, file, detail }) =>
                  element(
                    'tr',
                    {},
                    element('td', {}, words[code]),
                    element('td', {}, [file, detail].filter(Boolean).join(': ')),
                  ),
                ),
            ),
          ),
        ]),
    element(
      'dl',
      {},
      ...rows.map(([name, value]) => element('div', {}, element('dt', {}, name), element('dd', {}, value))),
    ),
  ]
}
