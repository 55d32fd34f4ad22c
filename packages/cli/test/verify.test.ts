import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { keyFingerprint, writePack } from '@jurybox/core/evidence'
import { expect } from 'chai'
import { KEYS, OTHER_KEYS, rawKey, signedPack } from '../../core/test/evidence/stage.ts'
import { verifyCommand } from '../src/verify.ts'

describe('jurybox verify', () => {
  const pack = signedPack()
  const fingerprint = keyFingerprint(rawKey(KEYS.publicKey))
  let folder = ''
  before(() => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-verify-'))
    write('pack.zip', writePack(pack))
    for (const [path, bytes] of pack) write(`files/${path}`, bytes)
  })
  after(() => rmSync(folder, { recursive: true, force: true }))
  function write(path: string, content: Uint8Array | string): string {
    const whole = join(folder, path)
    mkdirSync(dirname(whole), { recursive: true })
    writeFileSync(whole, content)
    return whole
  }
  function run(...args: string[]): { status: number; out: string; err: string } {
    let [out, err] = ['', '']
    const status = verifyCommand(args, { stdout: (text) => (out += text), stderr: (text) => (err += text) })
    return { status, out, err }
  }

  it('a whole pack: who signed it, and what comes out again', () => {
    const { status, out } = run(join(folder, 'pack.zip'), '--key', fingerprint)
    expect(status).to.equal(0)
    expect(out).to.contain(`signed: Isolde Wren, 2026-11-17T09:00:00.000Z, key ${fingerprint}`)
    expect(out).to.contain('verdicts: 5 of 6 come out again; 1 rest on what the pack does not hold')
    expect(out).to.contain('No fault was found.')
  })
  it('without a key it says that whose it is remains to be seen', () =>
    expect(run(join(folder, 'pack.zip')).out).to.contain('Compare the key with the one that the report prints'))
  it('an unpacked pack is one, too', () => expect(run(join(folder, 'files')).status).to.equal(0))
  it('a changed file is named, in text and as JSON', () => {
    const path = write('changed/manifest.json', '{}') && join(folder, 'changed')
    for (const [name, bytes] of pack) write(`changed/${name}`, bytes)
    write('changed/snapshot/devices/core/config.txt', 'hostname other\n')
    const { status, out } = run(path, '--no-recompute')
    expect(status).to.equal(1)
    expect(out).to.contain('fault: A file was changed: snapshot/devices/core/config.txt').and.contain('1 fault.')
    expect(JSON.parse(run(path, '--no-recompute', '--format', 'json').out).faults).to.deep.equal([
      { code: 'file-changed', file: 'snapshot/devices/core/config.txt', detail: '' },
    ])
  })
  it('another key is told', () => {
    const { status, out } = run(join(folder, 'pack.zip'), '--key', keyFingerprint(rawKey(OTHER_KEYS.publicKey)))
    expect(status).to.equal(1)
    expect(out).to.contain('The pack was signed with another key: ')
  })
  it('a chain is followed', () =>
    expect(run(join(folder, 'pack.zip'), '--previous', join(folder, 'pack.zip')).out).to.contain(
      'The pack does not follow the one before it: ',
    ))
  it('a file alone: its proof is made, and verified', () => {
    const path = 'snapshot/devices/edge/config.txt'
    const { status, out } = run(join(folder, 'pack.zip'), '--prove', path)
    expect(status).to.equal(0)
    const proof = write('proof.json', out)
    const file = join(folder, 'files', path)
    expect(run(file, '--proof', proof, '--key', fingerprint)).to.deep.include({ status: 0 })
    const other = write('other.txt', `${readFileSync(file, 'utf8')}!`)
    expect(run(other, '--proof', proof)).to.deep.include({ status: 1 })
    const forged = write('forged.json', out.replace('Isolde Wren', 'Casper Dunlin'))
    expect(run(file, '--proof', forged).out).to.contain('The signature is not that of the manifest.')
    expect(run(file, '--proof', write('none.json', '{}')).status).to.equal(1)
  })
  for (const [name, args] of Object.entries({
    'no pack': [],
    'two packs': ['a', 'b'],
    'a pack that is not there': ['/nowhere.zip'],
    'an unknown option': ['x', '--frob'],
    'an unknown format': ['x', '--format', 'pdf'],
  }))
    it(`${name}: exit status 2`, () => expect(run(...args).status).to.equal(2))
  it('a file that is none, and a proof of a file that the pack has not', () => {
    expect(run(write('none.zip', 'x')).out).to.contain('The archive was changed, or is no pack of evidence: ')
    expect(run(join(folder, 'pack.zip'), '--prove', 'none').err).to.contain('the pack has no file "none"')
  })
})
