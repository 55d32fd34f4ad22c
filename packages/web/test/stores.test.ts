import { expect } from 'chai'
import { createPinia, setActivePinia } from 'pinia'
import { useEngagement } from '../src/stores/engagement.ts'
import { namesIn } from '../src/stores/names.ts'
import { grouped } from '../src/shared/numbers.ts'

interface Tick {
  readonly id: number
  readonly snapshotId: number
  readonly scope: { title: string; devices: string[] } | null
  readonly framework?: string
}
const real = globalThis.fetch

/** A server that knows one engagement with two snapshots. */
function serve(audits: readonly Tick[], role = 'lead'): void {
  const answers: Readonly<Record<string, unknown>> = {
    '/api/engagements/7': { id: 7, title: 'E', client: '', role, waiting: {} },
    '/api/engagements/7/chronicle': {
      snapshots: [
        { id: 1, title: 'First' },
        { id: 2, title: 'Second' },
      ],
      audits: audits.map((audit) => ({ framework: null, ...audit })),
    },
  }
  globalThis.fetch = (async (url: string) =>
    new Response(JSON.stringify(answers[url] ?? null), { status: url in answers ? 200 : 404 })) as typeof fetch
}

describe('the engagement that is open', () => {
  beforeEach(() => setActivePinia(createPinia()))
  afterEach(() => (globalThis.fetch = real))

  const LIMITED = { title: 'model Q-24', devices: ['a'] }
  const opened = async (audits: readonly Tick[]) => {
    serve(audits)
    const engagement = useEngagement()
    await engagement.open(7)
    return engagement
  }

  it('shows the latest snapshot, and any other that is chosen', async () => {
    const engagement = await opened([])
    expect(engagement.b?.id).to.equal(2)
    engagement.step(-1)
    expect(engagement.b?.id).to.equal(1)
    engagement.step(-1)
    expect(engagement.b?.id, 'there is none before it').to.equal(1)
  })

  it('takes the last audit of all devices, not one that is limited to some', async () => {
    const engagement = await opened([
      { id: 10, snapshotId: 2, scope: null },
      { id: 11, snapshotId: 2, scope: null },
      { id: 12, snapshotId: 2, scope: LIMITED },
      { id: 14, snapshotId: 2, scope: null, framework: 'pci-dss-4.0.1' },
      { id: 13, snapshotId: 1, scope: null },
    ])
    expect(engagement.audit?.id, 'nor one for a framework').to.equal(11)
    expect(
      engagement.auditsOfB.map(({ id }) => id),
      'the last one first',
    ).to.deep.equal([14, 12, 11, 10])
    engagement.chosenAudit = 12
    expect(engagement.audit?.id).to.equal(12)
    engagement.step(-1)
    expect(engagement.audit?.id, 'the choice is of another snapshot').to.equal(13)
  })

  it('takes a limited audit where there is no other, and none where there is none', async () => {
    expect((await opened([{ id: 12, snapshotId: 2, scope: LIMITED }])).audit?.id).to.equal(12)
    setActivePinia(createPinia())
    expect((await opened([])).audit).to.equal(null)
  })

  it('lets each role do what the server lets it do', async () => {
    const may = async (role: string) => {
      setActivePinia(createPinia())
      serve([], role)
      const engagement = useEngagement()
      await engagement.open(7)
      return engagement.may
    }
    expect(await may('reader')).to.include({ import: false, run: false, manage: false, exportSecrets: false })
    expect(await may('auditor')).to.include({ import: true, run: true, manage: false, exportSecrets: false })
    expect(await may('engineer')).to.include({ import: true, run: false, exportSecrets: true })
  })
})

describe('classes of headers', () => {
  it('are explained by the names of what they mention, each once', () => {
    const names = { hosts: { '10.0.0.1': 'core lan', '2001:db8::1': 'edge wan' }, ports: { 443: 'https', 44: 'no' } }
    expect(
      namesIn(
        'tcp and src host 10.0.0.1 and dst host 10.0.0.9 and dst port 443 and (src port 443 or dst host 2001:db8::1)',
        names,
      ),
    ).to.deep.equal(['10.0.0.1 is core lan', '2001:db8::1 is edge wan', '443 is https'])
    expect(
      namesIn('dst net 10.0.0.1/24 and dst portrange 443-445', names),
      'what is no host and no port',
    ).to.deep.equal([])
  })
})

describe('numbers on the screen', () => {
  it('are grouped by thousands', () =>
    expect([0, 999, 1734, 1234567].map(grouped)).to.deep.equal(['0', '999', '1,734', '1,234,567']))
})
