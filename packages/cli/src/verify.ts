import { readFileSync, statSync, writeFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import {
  FAULT_WORDS,
  partOf,
  readPack,
  verifyPack,
  verifyPart,
  type PackFault,
  type PackFiles,
  type Verification,
} from '@jurybox/core/evidence'
import { UsageError, type Output } from './call.ts'
import { filesAt } from './files.ts'

export const VERIFY_USAGE = `Usage: jurybox verify PACK.zip|FOLDER [--key FINGERPRINT] [--previous PACK] [--no-recompute]
       jurybox verify PACK.zip|FOLDER --prove FILE            a proof of one file of the pack
       jurybox verify FILE --proof PROOF.json [--key FINGERPRINT]
         each with [--format json|text] [--out FILE]

Checks a pack of evidence (docs/formats/pack.md): that it is whole, who signed it, that it follows the pack before it,
and that its verdicts come out again of its records and rules. Needs neither a server nor a network. --key is the
fingerprint that the report prints; without it the key that the pack names is told, and whose it is remains to be seen.
Exit status: 0 nothing is wrong; 1 something is; 2 bad usage or nothing readable.`

/** Verifies a pack of evidence, or one file of it. @returns the exit status */
export function verifyCommand(args: readonly string[], output: Output): number {
  try {
    const { values, positionals } = parsed(args)
    const [path, ...more] = positionals
    if (path === undefined || more.length > 0) throw new UsageError(`name one pack\n${VERIFY_USAGE}`)
    if (values.format !== 'json' && values.format !== 'text')
      throw new UsageError(`unknown format "${values.format}" (expected json, text)`)
    const write = (text: string): void =>
      values.out === undefined ? output.stdout(text) : writeFileSync(values.out, text)
    const print = (data: object, text: () => string): void =>
      write(values.format === 'json' ? `${JSON.stringify({ schema: 1, ...data }, null, 2)}\n` : text())
    const key = values.key ?? null
    if (values.proof !== undefined) {
      const faults = verifyPart(bytesAt(path), jsonAt(values.proof), key)
      print({ faults }, () => (faults.length === 0 ? 'The file is the one of the pack.\n' : faultLines(faults)))
      return faults.length === 0 ? 0 : 1
    }
    const files = packAt(path)
    if (!files) {
      const faults: PackFault[] = [{ code: 'container-wrong', file: path, detail: '' }]
      print({ faults }, () => faultLines(faults))
      return 1
    }
    if (values.prove !== undefined) {
      const part = partOf(files, values.prove)
      if (!part) throw new UsageError(`the pack has no file "${values.prove}"`)
      write(`${JSON.stringify(part, null, 2)}\n`)
      return 0
    }
    const previous = values.previous === undefined ? null : packAt(values.previous)
    if (values.previous !== undefined && !previous) throw new UsageError(`${values.previous} is no pack of evidence`)
    const verification = verifyPack(files, { key, previous, recompute: values['no-recompute'] !== true })
    print(verification, () => textOf(verification, key !== null))
    return verification.faults.length === 0 ? 0 : 1
  } catch (error) {
    if (!(error instanceof UsageError)) throw error
    output.stderr(`jurybox verify: ${error.message}\n`)
    return 2
  }
}

function parsed(args: readonly string[]) {
  try {
    return parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        key: { type: 'string' },
        previous: { type: 'string' },
        prove: { type: 'string' },
        proof: { type: 'string' },
        'no-recompute': { type: 'boolean' },
        format: { type: 'string', default: 'text' },
        out: { type: 'string' },
      },
    })
  } catch (error) {
    throw new UsageError(`${error instanceof Error ? error.message : String(error)}\n${VERIFY_USAGE}`)
  }
}

/** A pack as a zip, or unpacked as a folder; null where the zip is not as it was written. */
function packAt(path: string): PackFiles | null {
  if (!isFolder(path)) return readPack(bytesAt(path))
  const { files, refused } = filesAt([path])
  if (refused.length > 0) throw new UsageError(refused.map((one) => `${one.path}: ${one.reason}`).join('; '))
  return new Map(files.map((file) => [file.path, file.bytes]))
}

function isFolder(path: string): boolean {
  try {
    return statSync(path).isDirectory()
  } catch {
    throw new UsageError(`${path} cannot be read`)
  }
}

function bytesAt(path: string): Uint8Array {
  try {
    return new Uint8Array(readFileSync(path))
  } catch {
    throw new UsageError(`${path} cannot be read`)
  }
}

function jsonAt(path: string): unknown {
  try {
    return JSON.parse(new TextDecoder().decode(bytesAt(path)))
  } catch (error) {
    if (error instanceof UsageError) throw error
    throw new UsageError(`${path} is no JSON`)
  }
}

function faultLines(faults: readonly PackFault[]): string {
  return faults
    .map(({ code, file, detail }) => {
      const where = [file, detail].filter(Boolean).join(': ')
      return `fault: ${where === '' ? FAULT_WORDS[code] : `${FAULT_WORDS[code].slice(0, -1)}: ${where}`}\n`
    })
    .join('')
}

function textOf({ manifest, signed, stamped, faults, recomputed }: Verification, isTrusted: boolean): string {
  const about = manifest
    ? [
        `${manifest.engagement.title} (${manifest.engagement.client})`,
        `snapshot: ${manifest.snapshot.title}, ${manifest.snapshot.takenAt}; judged ${manifest.audit.judgedAt}`,
        `made: ${manifest.madeAt} by ${manifest.madeBy}; ${manifest.files} files, head ${manifest.root}`,
      ]
    : []
  const rest = [
    ...signed.map(({ by, at, fingerprint }) => `signed: ${by}, ${at}, key ${fingerprint}`),
    ...(signed.length > 0 && !isTrusted ? ['Compare the key with the one that the report prints (--key).'] : []),
    ...(stamped
      ? [`time stamp: ${stamped.at} by ${stamped.authority}, certificate SHA-256 ${stamped.certificate}`]
      : []),
    ...(recomputed
      ? [
          `verdicts: ${recomputed.equal} of ${recomputed.verdicts} come out again` +
            (recomputed.notReproduced === 0
              ? ''
              : `; ${recomputed.notReproduced} rest on what the pack does not hold, as it says`),
        ]
      : []),
  ]
  return `${[...about, ...rest].map((line) => `${line}\n`).join('')}${faultLines(faults)}${
    faults.length === 0 ? 'No fault was found.\n' : `${faults.length} ${faults.length === 1 ? 'fault' : 'faults'}.\n`
  }`
}
