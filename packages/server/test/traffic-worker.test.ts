import { expect } from 'chai'
import trafficTask, { type NetworkMember, type TaskAnswer } from '../src/traffic/traffic-worker.ts'
import type { TrafficQuestion } from '../src/traffic/questions.ts'

const config = (name: string, number: number, more = ''): string =>
  `hostname ${name}\ninterface lan\n ip address 10.${number}.0.1 255.255.255.0\ninterface core\n ip address 10.9.0.${number} 255.255.255.0\n${more}${[
    1, 2, 3, 4, 5,
  ]
    .filter((other) => other !== number)
    .map((other) => `ip route 10.${other}.0.0 255.255.255.0 10.9.0.${other}\n`)
    .join('')}end\n`

/** The worker's function, called in this thread. */
describe('the worker of traffic', () => {
  const told = (): SharedArrayBuffer => new SharedArrayBuffer(12)
  const member = (name: string, version: string): NetworkMember => ({
    key: `${name} ${version}`,
    name,
    facts: { labels: {} },
  })
  const read = (name: string, version: string, text: string): void => {
    expect(
      trafficTask({
        do: 'read',
        maskKey: new Uint8Array(32),
        devices: [
          {
            ...member(name, version),
            dialect: 'indented',
            records: [{ id: '1', kind: 'config', dialect: 'indented', text, takenAt: null }],
          },
        ],
      }),
    ).to.deep.equal({ is: 'read' })
  }
  const ask = (
    network: string,
    versions: readonly string[],
    question: TrafficQuestion,
    shared = told(),
    before: readonly string[] | null = null,
  ): TaskAnswer => {
    const members = (all: readonly string[]): NetworkMember[] => all.map((version, i) => member(`r${i + 1}`, version))
    return trafficTask({
      do: 'ask',
      network,
      members: members(versions),
      links: null,
      before: before && { network: `${network} before`, members: members(before), links: null },
      question,
      told: shared,
    })
  }
  const REACH: TrafficQuestion = { ask: 'reach', from: 'r1:lan', to: '10.2.0.0/24', only: 'udp dst port 53' }
  const fates = (answer: TaskAnswer): string[] =>
    answer.is === 'reach' ? [...new Set(answer.parts.map(({ fate, device }) => `${fate} ${device}`))] : [answer.is]
  const OLD = ['a', 'a', 'a', 'a', 'a']

  it('says which records it does not have yet, and answers when they are there', () => {
    expect(ask('one', OLD, REACH)).to.deep.equal({
      is: 'missing',
      keys: OLD.map((version, i) => `r${i + 1} ${version}`),
    })
    for (let number = 1; number <= 5; number++) read(`r${number}`, 'a', config(`r${number}`, number))
    expect(fates(ask('one', OLD, REACH))).to.deep.equal(['arrives r2'])
  })

  it('a network of which one device is another answers as one that is made anew, and the one before when it is asked again', () => {
    read(
      'r2',
      'b',
      config(
        'r2',
        2,
        ' ip access-group NO in\nip access-list extended NO\n deny udp any any eq 53\n permit ip any any\n',
      ),
    )
    const next = ['a', 'b', 'a', 'a', 'a']
    expect(fates(ask('two', next, REACH))).to.deep.equal(['stopped r2'])
    expect(fates(ask('one', OLD, REACH))).to.deep.equal(['arrives r2'])
    expect(fates(ask('two', next, REACH))).to.deep.equal(['stopped r2'])
  })

  it('two networks are compared as they are, though one is like the other', () => {
    const answer = ask('three', ['a', 'b', 'a', 'a', 'a'], { ask: 'changes', only: 'udp' }, told(), OLD)
    expect(
      answer.is === 'changes' &&
        answer.changes
          .filter(({ from }) => from.includes('10.1.0.0/24'))
          .map(({ before, after, to }) => [before, after, to]),
    ).to.deep.equal([[['arrives'], ['stopped'], ['10.2.0.0/24', 'elsewhere']]])
  })

  it('tells how far it is, and stops where nobody waits', () => {
    const shared = told()
    const cells = new Int32Array(shared)
    expect(ask('one', OLD, { ask: 'survey', place: '10.2.0.0/24', way: 'to', only: null }, shared).is).to.equal(
      'survey',
    )
    expect(cells[1]).to.be.above(3)
    expect(cells[0]).to.equal((cells[1] ?? 0) - 1)
    cells[2] = 1
    expect(ask('one', OLD, { ask: 'survey', place: '10.2.0.0/24', way: 'to', only: null }, shared)).to.deep.equal({
      is: 'stopped',
    })
  })

  it('refuses a question that cannot be put, in words', () => {
    expect(ask('one', OLD, { ...REACH, from: 'nowhere' }))
      .to.deep.include({ is: 'refused' })
      .and.to.have.property('reason')
      .match(/"nowhere" is not a place/)
    expect(
      ask('one', OLD, {
        ask: 'compare lists',
        a: { device: 'r2', list: 'NO', family: 'ipv4' },
        b: { device: 'r2', list: 'NO', family: 'ipv4' },
      }),
    ).to.deep.equal({ is: 'compare lists', onlyFirst: null, onlySecond: null })
  })
})
