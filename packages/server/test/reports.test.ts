import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import exceljs from 'exceljs'
import { expect } from 'chai'
import papaparse from 'papaparse'
import { loadDemo } from '../src/demo.ts'
import { Problem } from '../src/http/problem.ts'
import { settingsOf } from '../src/operation/settings.ts'
import { Printer } from '../src/reports/print.ts'
import { startServer, type RunningServer } from '../src/server.ts'
import { Client } from './world.ts'

const SCENARIO = fileURLToPath(new URL('../../../scenario', import.meta.url))
const BASE = '/engagements/1'
const OUTCOMES = ['fail', 'unknown', 'error', 'pass', 'notapplicable', 'notchecked'] as const
/** A picture of one pixel, as PNG. */
const PIXEL = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
)

/** The evidence report of the demo in every form, read again by programs of others. */
describe('reports of the server', function () {
  this.timeout(300_000)
  let server: RunningServer
  let folder = ''
  let [lead, auditor, reader] = [] as unknown as [Client, Client, Client]
  let audit = 0
  let counts: Record<string, number> = {}

  before(async () => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-reports-'))
    server = await startServer({
      dataFolder: folder,
      port: 0,
      webFolder: null,
      logLevel: 'fatal',
      settings: settingsOf({ JURYBOX_CHECK_RESPONSES: '1' }),
    })
    await loadDemo(server.services, SCENARIO)
    const signedIn = async (name: string): Promise<Client> => {
      const client = new Client(server.address)
      expect(await client.signIn(name, 'kittiwake-at-dawn')).to.equal(200)
      return client
    }
    ;[lead, auditor, reader] = [await signedIn('lead'), await signedIn('auditor'), await signedIn('reader')]
    const { audits } = (await lead.get(`${BASE}/chronicle`)).json
    audit = audits.at(-1).id
    counts = audits.at(-1).counts
  })
  after(async () => {
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
  })

  async function fetched(path: string, client = lead): Promise<{ status: number; bytes: Buffer }> {
    const response = await fetch(`${server.address}/api${BASE}/${path}`, { headers: { cookie: client.cookie } })
    return { status: response.status, bytes: Buffer.from(await response.arrayBuffer()) }
  }
  /** A report as a file. @param query begins with `?`, or is empty */
  async function made(form: string, query = ''): Promise<string> {
    const { status, bytes } = await fetched(`audits/${audit}/report.${form}${query}`)
    expect(status, bytes.toString().slice(0, 200)).to.equal(200)
    const file = join(folder, `report.${form}`)
    writeFileSync(file, bytes)
    return file
  }
  const plain = (words: string): string => words.replace(/[^\p{L}\d]/gu, '')
  const textOfPdf = (file: string): string => execFileSync('pdftotext', ['-layout', file, '-']).toString()
  /** What LibreOffice makes of a file. */
  function converted(file: string, to: string, ending: string): string {
    const profile = `-env:UserInstallation=file://${join(folder, 'office')}`
    execFileSync('soffice', [profile, '--headless', '--convert-to', to, '--outdir', folder, file], { stdio: 'pipe' })
    return readFileSync(file.replace(/\.\w+$/, `.${ending}`), 'utf8')
  }

  it('the numbers of the screen stand in every form', async () => {
    const said: Record<string, Record<string, number>> = {}
    const sentence = (text: string): Record<string, number> => {
      const [, ...all] =
        /(\d+) fail\W+(\d+) unknown\W+(\d+) error\W+(\d+) pass\W+(\d+) not applicable\W+(\d+) not checked/.exec(
          text.replace(/\s+/g, ' '),
        ) ?? ['']
      return Object.fromEntries(OUTCOMES.map((outcome, i) => [outcome, Number(all[i])]))
    }
    const counted = (outcomes: readonly string[]): Record<string, number> =>
      Object.fromEntries(OUTCOMES.map((outcome) => [outcome, outcomes.filter((one) => one === outcome).length]))
    said['pdf'] = sentence(textOfPdf(await made('pdf')))
    said['md'] = sentence(readFileSync(await made('md'), 'utf8'))
    said['html'] = sentence(readFileSync(await made('html'), 'utf8').replace(/<[^>]*>/g, ' '))
    said['docx'] = sentence(converted(await made('docx'), 'txt:Text', 'txt'))
    const rows = papaparse.parse<string[]>(converted(await made('xlsx'), 'csv', 'csv')).data
    const words: Record<string, string> = { notapplicable: 'not applicable', notchecked: 'not checked' }
    said['xlsx'] = Object.fromEntries(
      OUTCOMES.map((outcome) => [
        outcome,
        Number(rows.find(([what]) => what === `Verdicts: ${words[outcome] ?? outcome}`)?.[1]),
      ]),
    )
    const { verdicts, expected } = JSON.parse(readFileSync(await made('json'), 'utf8'))
    said['json'] = counted(verdicts.map(({ outcome }: { outcome: string }) => outcome))
    const table = papaparse.parse<{ outcome: string; benchmark: string }>(readFileSync(await made('csv'), 'utf8'), {
      header: true,
      skipEmptyLines: true,
    }).data
    said['csv'] = counted(table.filter((row) => row.benchmark !== 'expectations').map(({ outcome }) => outcome))
    const screen = Object.fromEntries(OUTCOMES.map((outcome) => [outcome, counts[outcome]]))
    for (const [form, numbers] of Object.entries(said)) expect(numbers, form).to.deep.equal(screen)
    // SARIF knows five kinds: unknown and error are both its "review".
    const kinds = JSON.parse(readFileSync(await made('sarif'), 'utf8')).runs[0].results.map(
      ({ kind }: { kind: string }) => kind,
    )
    const ofTraffic = (outcome: string): number => expected.filter((one: any) => one.outcome === outcome).length
    expect(kinds.filter((one: string) => one === 'fail')).to.have.length((counts['fail'] ?? 0) + ofTraffic('fail'))
    expect(kinds.filter((one: string) => one === 'pass')).to.have.length((counts['pass'] ?? 0) + ofTraffic('pass'))
  })

  it('as a workbook: sheets with filters and heads that stay, every finding on a row, no formula', async () => {
    const book = new exceljs.Workbook()
    await book.xlsx.readFile(await made('xlsx'))
    expect(book.worksheets.map(({ name }) => name)).to.deep.equal([
      'Summary',
      'Findings',
      'Evidence',
      'Requirements',
      'Devices',
    ])
    let formulas = 0
    for (const sheet of book.worksheets) {
      expect(sheet.autoFilter, sheet.name).to.not.equal(undefined)
      expect(sheet.views[0], sheet.name).to.include({ state: 'frozen', ySplit: 1 })
      sheet.eachRow((row) => row.eachCell((cell) => (formulas += cell.type === exceljs.ValueType.Formula ? 1 : 0)))
    }
    expect(formulas).to.equal(0)
    const { verdicts, expected, devices } = JSON.parse(readFileSync(await made('json'), 'utf8'))
    const findings = [...verdicts, ...expected].filter(({ outcome }) => ['fail', 'unknown', 'error'].includes(outcome))
    expect((book.getWorksheet('Findings')?.rowCount ?? 0) - 1).to.equal(findings.length)
    expect((book.getWorksheet('Devices')?.rowCount ?? 0) - 1).to.equal(devices.length)
  })

  it('as PDF: sound, tagged, with bookmarks, fonts within, page numbers, and every finding', async () => {
    const file = await made('pdf', '?confidentiality=Secret')
    execFileSync('qpdf', ['--check', file], { stdio: 'pipe' })
    const info = execFileSync('pdfinfo', [file]).toString()
    expect(info)
      .to.match(/Tagged:\s+yes/)
      .and.match(/Title:\s+Network hardening/)
    const structure = execFileSync('pdfinfo', ['-struct', file], { stdio: 'pipe' }).toString()
    for (const tag of ['H1', 'H2', 'Table', 'TH', 'TD', 'L', 'Figure'])
      expect(structure).to.match(new RegExp(`^\\s+${tag}\\b`, 'm'))
    // Embedded, each of them: the fifth column from the right.
    const fonts = execFileSync('pdffonts', [file]).toString().trim().split('\n').slice(2)
    expect(fonts.filter((line) => line.trim().split(/\s+/).at(-5) !== 'yes')).to.deep.equal([])
    const outlines = execFileSync('qpdf', ['--json', '--json-key=outlines', file], { maxBuffer: 1e9 }).toString()
    expect(outlines).to.contain('"Findings"').and.contain('"Summary"')
    const text = textOfPdf(file)
    expect(text).to.match(/Secret\s+2 of \d+/)
    const { verdicts } = JSON.parse(readFileSync(await made('json'), 'utf8'))
    const whole = plain(text)
    const missing = verdicts
      .filter(({ outcome }: { outcome: string }) => outcome === 'fail')
      .filter(({ note }: { note: string }) => !whole.includes(plain(note).slice(0, 60)))
    expect(missing.map(({ note }: { note: string }) => note)).to.deep.equal([])
  })

  it('management gets two to four pages, with client, auditor and confidentiality', async () => {
    const file = await made('pdf', '?audience=management&auditor=Isolde%20Wren&confidentiality=Secret')
    expect(Number(/Pages:\s+(\d+)/.exec(execFileSync('pdfinfo', [file]).toString())?.[1])).to.be.within(2, 4)
    const text = textOfPdf(file).replace(/\s+/g, ' ')
    expect(text).to.contain('Client Merrow Sound Ferries').and.contain('Auditor Isolde Wren').and.contain('Secret')
    expect(text).to.contain('9 findings resolved, 8 new, 91 still open').and.contain('Remediate first')
    expect((await fetched(`audits/${audit}/report.pdf?audience=crowd`)).status).to.equal(400)
  })

  it('holds the sections that were chosen, in their order, under a title of its own', async () => {
    const md = readFileSync(await made('md', '?sections=records,summary&title=For%20the%20board'), 'utf8')
    expect([...md.matchAll(/^##? (.*)$/gm)].map(([, title]) => title)).to.deep.equal([
      'For the board',
      'Records',
      'Summary',
    ])
    expect((await fetched(`audits/${audit}/report.md?sections=summary,summary`)).status).to.equal(400)
    expect((await fetched(`audits/${audit}/report.md?sections=weather`)).status).to.equal(400)
    expect((await fetched(`audits/${audit}/report.rtf`)).status).to.equal(404)
  })

  it('is limited to a device, a site or a topic, and says so', async () => {
    const { verdicts, devices, limitedTo, scores } = JSON.parse(
      readFileSync(await made('json', '?device=qs-fw1'), 'utf8'),
    )
    expect([devices.length, limitedTo, scores]).to.deep.equal([1, 'device qs-fw1', []])
    expect(new Set(verdicts.map(({ device }: { device: string }) => device))).to.deep.equal(new Set(['qs-fw1']))
    expect(readFileSync(await made('html', '?topic=Logging'), 'utf8')).to.contain('Limited to topic Logging')
    expect((await fetched(`audits/${audit}/report.json?device=nobody`)).status).to.equal(422)
    expect((await fetched(`audits/${audit}/report.json?topic=Weather`)).status).to.equal(422)
  })

  it('has the picture of the client, where it is one', async () => {
    const upload = async (bytes: Buffer, name: string): Promise<number> => {
      const form = new FormData()
      form.set('data', JSON.stringify({ paths: [name] }))
      form.append('files', new Blob([new Uint8Array(bytes)]), name)
      return (await lead.call('POST', `${BASE}/logo`, form)).status
    }
    expect(await upload(Buffer.from('<svg onload="x()">'), 'a.png')).to.equal(422)
    expect(await upload(Buffer.concat([PIXEL, Buffer.alloc(300_000)]), 'a.png')).to.equal(422)
    expect(await upload(PIXEL, 'a.png')).to.equal(204)
    expect((await lead.get(`${BASE}/reports`)).json.hasLogo).to.equal(true)
    expect(readFileSync(await made('html'), 'utf8')).to.contain(
      '<img class="logo" alt="" src="data:image/png;base64,iVBOR',
    )
    expect((await lead.call('DELETE', `${BASE}/logo`)).status).to.equal(204)
    expect(readFileSync(await made('html'), 'utf8')).to.not.contain('<img')
  })

  it('is saved, made after each audit, and told where it is', async () => {
    const body = { title: 'Board', format: 'md', choice: { audience: 'management' }, afterAudit: true }
    expect((await reader.put(`${BASE}/reports`, body)).status).to.equal(403)
    expect((await auditor.put(`${BASE}/reports`, { ...body, format: 'rtf' })).status).to.equal(404)
    expect((await auditor.put(`${BASE}/reports`, body)).status).to.equal(200)
    const alert = await lead.post(`${BASE}/alerts`, {
      title: 'Reports',
      to: { channel: 'webhook', url: 'http://127.0.0.1:9/' },
      secret: 'between us and nobody else',
      kinds: ['report'],
      severity: 'high',
    })
    expect(alert.status, alert.text).to.equal(200)
    const { json: ticks } = await lead.get(`${BASE}/chronicle`)
    const { choices, snapshotId } = ticks.audits.at(-1)
    const started = await auditor.post(`${BASE}/audits`, {
      snapshotId,
      choices: choices.map(({ benchmark, profile }: any) => ({ benchmark, profile })),
    })
    expect(started.status, started.text).to.equal(200)
    await lead.idle(1)
    const { saved, made: all } = (await reader.get(`${BASE}/reports`)).json
    expect(saved.map(({ title }: { title: string }) => title)).to.deep.equal(['Board'])
    expect(all).to.have.length(1)
    const { status, bytes } = await fetched(`made-reports/${all[0].id}`, reader)
    expect([status, bytes.toString().slice(0, 2)]).to.deep.equal([200, '# '])
    await server.services.alerts.settled()
    const [event] = await server.services.database.query(
      'SELECT kind, title, detail FROM alert_events WHERE kind = ?',
      ['report'],
    )
    expect(event).to.include({ kind: 'report', title: 'Board' })
    expect(event.detail).to.contain('/e/1/reports')
    expect((await auditor.call('DELETE', `${BASE}/reports/${saved[0].id}`)).status).to.equal(204)
    expect((await reader.get(`${BASE}/reports`)).json.made).to.have.length(1)
  })

  it('what goes out in open formats comes back, findings of expectations of traffic included', async () => {
    const { verdicts, expected } = JSON.parse(readFileSync(await made('json'), 'utf8'))
    expect(expected.some(({ outcome }: { outcome: string }) => outcome === 'fail')).to.equal(true)
    const sent = async (path: string, form: string): Promise<any> => {
      const body = new FormData()
      body.set('data', JSON.stringify({ paths: [form] }))
      body.append('files', new Blob([new Uint8Array((await fetched(`audits/${audit}/report.${form}`)).bytes)]), form)
      return (await lead.call('POST', `${BASE}/audits/${audit}/${path}`, body)).json
    }
    const none = { count: 0, names: [] }
    const whole = { same: verdicts.length + expected.length, differing: [], unknown: none, lost: none }
    expect(await sent('other-results', 'xccdf.xml')).to.deep.equal(whole)
    expect(await sent('other-results', 'oscal-results.json')).to.deep.equal(whole)
    const findings = [...verdicts, ...expected].filter(({ outcome }) => ['fail', 'unknown', 'error'].includes(outcome))
    expect(await sent('oscal-poam', 'oscal-poam.json')).to.deep.equal({
      changed: 0,
      unchanged: findings.length,
      unknown: none,
      lost: none,
    })
  })
})

/** Text of every kind comes through paper as it is, and nothing is run or asked for. */
describe('printing', function () {
  this.timeout(120_000)
  const printer = new Printer('/usr/bin/chromium')
  const folder = mkdtempSync(join(tmpdir(), 'jurybox-print-test-'))
  after(async () => {
    await printer.close()
    rmSync(folder, { recursive: true, force: true })
  })
  async function printed(body: string, head = '', foot = ''): Promise<string> {
    const file = join(folder, 'a.pdf')
    const html = `<!doctype html><html lang="en"><head><title>t</title><style></style></head><body>${body}</body></html>`
    writeFileSync(file, await printer.print({ html, head, foot }))
    return execFileSync('pdftotext', ['-layout', file, '-']).toString()
  }

  it('holds every pair of printable characters (ASCII, RFC 20) of lines', async () => {
    const printable = Array.from({ length: 94 }, (_, i) => String.fromCharCode(33 + i))
    const pairs = printable.flatMap((first) => printable.map((second) => first + second))
    const escaped = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;')
    const lines = Array.from({ length: 190 }, (_, i) => pairs.slice(i * 47, i * 47 + 47).join(' '))
    const text = await printed(`<pre style="font:5px 'JetBrains Mono'">${escaped(lines.join('\n'))}</pre>`)
    const words = new Set(text.split(/\s+/))
    expect(pairs.filter((pair) => !words.has(pair))).to.deep.equal([])
  })

  it('head and foot are text whatever they hold', async () => {
    const text = await printed(
      '<p>one</p><p style="break-before:page">two</p>',
      '"} </style><b>x',
      'a\\" } body{display:none}',
    )
    expect(text).to.contain('</style><b>x').and.contain('display:none').and.contain('two').and.contain('2 of 2')
  })

  it('says which program is missing', async () => {
    const missing = new Printer('/nowhere/chromium').print({ html: '', head: '', foot: '' })
    const said = await missing.catch((error: unknown) => error)
    expect(said).to.be.instanceOf(Problem).and.include({ status: 503 })
    expect(String(said)).to.contain('/nowhere/chromium')
  })

  it('stops where whoever asked has gone, also one that waits for its turn', async () => {
    const rows = Array.from({ length: 20_000 }, (_, i) => `<p>${i} ${'word '.repeat(40)}</p>`).join('')
    const long = { html: `<!doctype html><title>t</title><style></style><body>${rows}</body>`, head: '', foot: '' }
    const [first, second] = [new AbortController(), new AbortController()]
    const outcome = (work: Promise<unknown>): Promise<string> =>
      work.then(
        () => 'printed',
        () => 'stopped',
      )
    const both = [printer.print(long, first.signal), printer.print(long, second.signal)].map(outcome)
    second.abort()
    await new Promise((resolve) => setTimeout(resolve, 1500))
    first.abort()
    expect(await Promise.all(both)).to.deep.equal(['stopped', 'stopped'])
    expect(await printed('<p>another</p>')).to.contain('another')
  })

  it('runs no script and loads nothing', async () => {
    const { createServer } = await import('node:http')
    let asked = 0
    const http = createServer((_, response) => {
      asked++
      response.end()
    })
    await new Promise<void>((resolve) => http.listen(0, '127.0.0.1', resolve))
    const { port } = http.address() as { port: number }
    const url = `http://127.0.0.1:${port}/`
    const text = await printed(
      `<p id="a">still</p><script>document.querySelector('#a').textContent='ran'</script><img src="${url}">` +
        `<iframe src="${url}"></iframe><link rel="stylesheet" href="${url}"><img src="file:///etc/hostname">`,
    )
    http.close()
    expect(text).to.contain('still').and.not.contain('ran')
    expect(asked).to.equal(0)
  })
})
