import { expect } from 'chai'
import fc from 'fast-check'
import { readSyslog, writeSyslog } from '../../src/state/index.ts'

describe('syslog messages', () => {
  it('are read as the examples of RFC 5424 §6.5 say', () => {
    expect(
      readSyslog(
        "<34>1 2003-10-11T22:14:15.003Z mymachine.example.com su - ID47 - \ufeff'su root' failed for lonvick on /dev/pts/8",
      ),
    ).to.deep.equal({
      facility: 4,
      severity: 2,
      timestamp: '2003-10-11T22:14:15.003Z',
      host: 'mymachine.example.com',
      app: 'su',
      process: null,
      id: 'ID47',
      data: new Map(),
      text: "'su root' failed for lonvick on /dev/pts/8",
    })
    expect(
      readSyslog("<165>1 2003-08-24T05:14:15.000003-07:00 192.0.2.1 myproc 8710 - - %% It's time to make the do-nuts."),
    ).to.include({
      facility: 20,
      severity: 5,
      host: '192.0.2.1',
      process: '8710',
      text: "%% It's time to make the do-nuts.",
    })
    const third = readSyslog(
      '<165>1 2003-10-11T22:14:15.003Z mymachine.example.com evntslog - ID47 [exampleSDID@32473 iut="3" eventSource="Application" eventID="1011"] \ufeffAn application event log entry...',
    )
    expect([...(third?.data.get('exampleSDID@32473') ?? [])]).to.deep.equal([
      ['iut', '3'],
      ['eventSource', 'Application'],
      ['eventID', '1011'],
    ])
    expect(third?.text).to.equal('An application event log entry...')
    const fourth = readSyslog(
      '<165>1 2003-10-11T22:14:15.003Z mymachine.example.com evntslog - ID47 [exampleSDID@32473 iut="3" eventSource="Application" eventID="1011"][examplePriority@32473 class="high"]',
    )
    expect([...(fourth?.data.keys() ?? [])]).to.deep.equal(['exampleSDID@32473', 'examplePriority@32473'])
    expect(fourth?.text).to.equal('')
  })

  it('are none where the examples of §6.3.5 say that they are malformed, and where they are of another kind', () => {
    const within = (data: string): string => `<165>1 2003-10-11T22:14:15.003Z host app - ID47 ${data}`
    expect(readSyslog(within('[exampleSDID@32473 iut="3"]'))).to.not.equal(null)
    for (const data of ['[ exampleSDID@32473 iut="3"]', '[exampleSDID@32473 iut="3"', '[exampleSDID@32473 iut=3]', ''])
      expect(readSyslog(within(data)), data).to.equal(null)
    // The second element is none, since a blank parts it from the first: it belongs to the text (§6.3.5).
    expect(readSyslog(within('[a@32473 x="1"] [b@32473 y="2"]'))).to.include({ text: '[b@32473 y="2"]' })
    for (const other of [
      '',
      '<192>1 - - - - - -',
      '<34>Oct 11 22:14:15 mymachine su: failed',
      '<13>1 yesterday - - - - - x',
    ])
      expect(readSyslog(other), other).to.equal(null)
  })

  it('come back as they were written', () => {
    const field = fc.option(fc.stringMatching(/^[!-,.-~][!-~]{0,20}$/), { nil: null })
    const name = fc.stringMatching(/^[a-z][\w@]{0,12}$/)
    const message = fc.record({
      facility: fc.nat(23),
      severity: fc.nat(7),
      timestamp: fc.constantFrom(null, '2026-11-26T07:00:00.000Z'),
      host: field,
      app: field,
      process: field,
      id: field,
      data: fc
        .array(
          fc.tuple(
            name,
            fc.array(fc.tuple(name, fc.string()), { maxLength: 3 }).map((pairs) => new Map(pairs)),
          ),
          { maxLength: 3 },
        )
        .map((all) => new Map(all)),
      text: fc.string().filter((text) => !text.startsWith('\ufeff') && !text.startsWith(' ')),
    })
    fc.assert(fc.property(message, (one) => void expect(readSyslog(writeSyslog(one))).to.deep.equal(one)))
  })
})
