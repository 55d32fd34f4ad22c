/**
 * Faults that were found once, each as a case against a running server: it answers, goes on answering others, and shows
 * nothing.
 */
import { zipSync } from 'fflate'
import { CONFIG, Client, type World } from '../packages/server/test/world.ts'
import { send } from './routes.ts'
import type { AttackReport } from './report.ts'

/** Answers to others may take so long meanwhile. */
const OTHERS_MS = 2_000

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)

export async function knownFaults(report: AttackReport, world: World): Promise<void> {
  await report.part('faults found before', async (tried) => {
    const lead = await world.client('lead')
    const auditor = await world.client('auditor')
    const reader = await world.client('reader')
    const base = `/engagements/${world.engagement}`
    const anonymous = new Client(world.server.address)
    const { metrics } = world.server.services

    /** Something hostile, and what others see while it runs. */
    const attack = async (
      what: string,
      work: () => Promise<{ status: number; text: string } | string | null>,
    ): Promise<void> => {
      const blocks = (await metrics.longBlocks.get()).values[0]?.value ?? 0
      let running = true
      let slowest = 0
      const others = (async () => {
        while (running) {
          const { ms } = await send(reader, 'GET', '/session', undefined)
          slowest = Math.max(slowest, ms)
          await new Promise((resolve) => setTimeout(resolve, 20))
        }
      })()
      let why: string | null = null
      try {
        const answer = await work()
        if (typeof answer === 'string') why = answer
        else if (answer && answer.status >= 500) why = `answered ${answer.status} ${answer.text.slice(0, 160)}`
      } catch (error) {
        why = String(error)
      }
      running = false
      await others
      // The count is made once a second.
      await new Promise((resolve) => setTimeout(resolve, 1_100))
      const more = ((await metrics.longBlocks.get()).values[0]?.value ?? 0) - blocks
      if (why === null && slowest > OTHERS_MS) why = `others waited ${slowest} ms`
      if (why === null && more > 2)
        why = `${more} long blocks of the main thread (longest ${Math.round(metrics.longestBlock)} ms)`
      tried(what, why)
    }
    const upload = (files: Record<string, Uint8Array>) => async () => {
      const form = new FormData()
      form.set('data', JSON.stringify({ paths: Object.keys(files) }))
      for (const [name, content] of Object.entries(files)) form.append('files', new Blob([content as BlobPart]), name)
      return send(lead, 'POST', `${base}/imports`, form)
    }
    const refused = (wanted: number, answer: { status: number; text: string }): string | null =>
      answer.status === wanted ? null : `answered ${answer.status} ${answer.text.slice(0, 160)}`

    await attack('a key of 400,000 blanks before sign-in', async () =>
      send(anonymous, 'POST', '/sign-in', JSON.stringify({ [`${' '.repeat(400_000)}x`]: 1 })),
    )
    await attack(
      'a zip of 49 MB of braces',
      upload({ 'a.zip': zipSync({ 'a.cfg': bytes(`hostname a\n${'{'.repeat(49_000_000)}`) }) }),
    )
    await attack(
      'a zip of deep JSON',
      upload({ 'a.zip': zipSync({ 'devices/a/config.txt': bytes(`${'['.repeat(3_000_000)}`) }) }),
    )
    await attack(
      'a YAML of 40,000 keys',
      upload({
        'snapshot.yaml': bytes(Array.from({ length: 40_000 }, (_, i) => `k${i}: ${i}`).join('\n')),
        'a.cfg': bytes(CONFIG),
      }),
    )
    await attack(
      'a YAML of aliases of aliases',
      upload({
        'snapshot.yaml': bytes(
          `a: &a [x,x,x,x,x,x,x,x,x]\n${Array.from(
            { length: 9 },
            (_, i) =>
              `${String.fromCharCode(98 + i)}: &${String.fromCharCode(98 + i)} [${Array(9)
                .fill(`*${String.fromCharCode(97 + i)}`)
                .join(',')}]`,
          ).join('\n')}\n`,
        ),
        'a.cfg': bytes(CONFIG),
      }),
    )
    await attack('one line of 8 MB', upload({ 'a.cfg': bytes(`hostname a\n${'x '.repeat(4_000_000)}\n`) }))
    await attack('a filter that nests all() nine times', async () =>
      send(
        reader,
        'POST',
        `${base}/groups/try`,
        JSON.stringify({
          kind: 'filter',
          text:
            'interfaces.all(a, interfaces.all(b, interfaces.all(c, interfaces.all(d, interfaces.all(e, ' +
            'interfaces.all(f, true))))))',
        }),
      ),
    )
    await attack('a question of a million characters', async () =>
      send(reader, 'GET', `${base}/search?q=${'a+'.repeat(3_000)}`, undefined),
    )
    await attack('the same content by ten people at once', async () => {
      const dropped = await Promise.all(
        Array.from({ length: 10 }, async () =>
          lead.drop(world.engagement, { 'twin.cfg': 'hostname twin\nip http server\n' }),
        ),
      )
      const frozen = await Promise.all(
        dropped.map(async ({ json }) =>
          lead.post(`${base}/snapshots`, { intake: json.id, title: 'S', takenAt: '2026-11-03T10:00:00Z' }),
        ),
      )
      return frozen.find(({ status }) => status >= 500) ?? null
    })
    await attack('the same account created ten times at once', async () => {
      const admin = await world.client('founder')
      const made = await Promise.all(
        Array.from({ length: 10 }, async () => admin.post('/accounts', { name: 'twin', fullName: 'T' })),
      )
      const odd = made.map(({ status }) => status).filter((status) => ![200, 409].includes(status))
      return odd.length > 0 ? `answered ${odd.join()}` : null
    })
    await attack('a host name that is a path', async () => {
      const { json } = await lead.freeze(world.engagement, {
        'evil.cfg': 'hostname ../../../../tmp/evil\nip http server\n',
      })
      const zip = await fetch(`${world.server.address}/api${base}/snapshots/${json.id}/masked.zip`, {
        headers: { cookie: lead.cookie },
      })
      return Buffer.from(await zip.arrayBuffer()).includes('..') ? 'the zip holds ".."' : null
    })
    await attack('a label named constructor', async () =>
      send(lead, 'POST', `${base}/labels`, JSON.stringify({ name: 'constructor', type: 'text' })),
    )
    await attack('a title with line breaks', async () =>
      send(lead, 'POST', '/engagements', JSON.stringify({ title: 'a\r\nSet-Cookie: x=1\n', client: '' })),
    )
    await attack('an address with a broken escape', async () => {
      const answers = await Promise.all(
        ['/%', '/api/%', '/assets/none.js', '/api/engagements/1e400/snapshots'].map(async (path) =>
          fetch(`${world.server.address}${path}`, { headers: { cookie: reader.cookie } }),
        ),
      )
      const odd = answers.map(({ status }) => status).filter((status) => status !== 404)
      return odd.length > 0 ? `answered ${odd.join()}` : null
    })
    await attack('numbers beyond all bounds', async () =>
      send(lead, 'POST', `${base}/audits`, '{"snapshotId":1e400,"choices":[{"benchmark":"network-hardening"}]}'),
    )
    await attack('1,500 streams of one reader', async () => {
      const controller = new AbortController()
      // Kept to the end: a stream that nobody holds any more is closed, and makes room for the next.
      const streams = await Promise.all(
        Array.from({ length: 200 }, () =>
          fetch(`${world.server.address}/api${base}/events`, {
            headers: { cookie: reader.cookie },
            signal: controller.signal,
          }),
        ),
      )
      const answers = streams.map(({ status }) => status)
      controller.abort()
      return answers.filter((status) => status === 200).length > 30 ? 'more than 30 were opened' : null
    })
    await attack('a foreign page that asks in the name of a reader', async () => {
      const answer = await fetch(`${world.server.address}/api/sign-out`, {
        method: 'POST',
        headers: { cookie: reader.cookie, origin: 'http://evil.example' },
      })
      return refused(403, { status: answer.status, text: await answer.text() })
    })
    await attack('another host name (DNS rebinding)', async () => {
      const { request } = await import('node:http')
      const { port } = new URL(world.server.address)
      const status = await new Promise<number>((resolve, reject) =>
        request({ host: '127.0.0.1', port, path: '/api/standing', headers: { host: 'evil.example' } }, (response) =>
          resolve(response.resume().statusCode ?? 0),
        )
          .on('error', reject)
          .end(),
      )
      return refused(421, { status, text: '' })
    })
    await attack('62 trials at a community', async () => {
      const { json } = await lead.freeze(world.engagement, {
        'oracle.cfg': 'hostname oracle\nsnmp-server community sanderling RO\n',
      })
      const outcomes = new Set<string>()
      for (const letter of 'abcdefghijklmnopqrstuvwxyz') {
        const text = JSON.stringify({
          id: 'own',
          title: 'O',
          version: '1',
          statement: 's',
          profiles: [{ id: 'a', title: 'A' }],
          rules: [
            {
              id: 'r',
              title: 'R',
              topic: 'T',
              severity: 'low',
              profile: 'a',
              statement: 's',
              decide: [
                {
                  id: 'x',
                  when: { line: 'snmp-server community <it> ...', where: `it.startsWith("${letter}")` },
                  outcome: 'fail',
                  note: 'n',
                },
                { id: 'y', outcome: 'pass', note: 'n' },
              ],
            },
          ],
        })
        const { json: answer } = await auditor.post(`${base}/own-benchmarks/trial`, { text, snapshotId: json.id })
        outcomes.add(
          JSON.stringify(
            answer.rules?.[0]?.devices?.find(({ device }: { device: string }) => device === 'oracle')?.outcome ??
              answer,
          ),
        )
      }
      return outcomes.size === 1 ? null : `one letter answers otherwise: ${[...outcomes].join()}`
    })
    await attack('a plain hash of a record', async () => {
      const { createHash } = await import('node:crypto')
      const { json } = await lead.freeze(world.engagement, {
        'hash.cfg': 'hostname hash\nsnmp-server community sanderling RO\n',
      })
      const hash = createHash('sha256').update('hostname hash\nsnmp-server community sanderling RO\n').digest('hex')
      const record = json.records.find(({ device }: { device: string }) => device === 'hash')
      const shown = (
        await Promise.all(
          [
            `${base}/snapshots/${json.id}`,
            `${base}/records/${record.id}`,
            `${base}/devices/${record.deviceId}/history`,
            `${base}/activity`,
          ].map((path) => lead.get(path)),
        )
      )
        .map(({ text }) => text)
        .join('')
      return shown.includes(hash.slice(0, 16)) ? 'it is shown' : null
    })
  })
}
