import { answerQuestion, downloadEvidence, listQuestions, uploadEvidence } from '@jurybox/api/questions'
import { answersTo } from '@jurybox/core/benchmarks'
import { Attestations, EvidenceFiles } from './entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { sha256 } from '../vault/vault.ts'
import { answersIn } from './answers.ts'

const DAY = 86_400_000

export const attestationRoutes = [
  route(listQuestions, async ({ services, engagementId }) => {
    const answers = await answersIn(services.database, engagementId)
    const sources = (await services.benchmarks.allIn(engagementId)).map(({ benchmark }) => benchmark.source)
    return sources.flatMap((source) =>
      answersTo(source, answers, Date.now()).map(({ source: question, benchmark, outcome, answer, expired }) => ({
        benchmark,
        ...question,
        outcome,
        expired,
        answer,
      })),
    )
  }),
  route(uploadEvidence, async ({ services, caller, engagementId, request, body }) => {
    const files = ((request.files ?? []) as Express.Multer.File[]).map((file, i) => ({
      name: (body.paths[i] ?? file.originalname).split(/[/\\]/).at(-1)?.slice(0, 255) ?? '',
      bytes: new Uint8Array(file.buffer),
      sha256: sha256(file.buffer),
    }))
    if (files.length !== body.paths.length)
      throw new Problem(400, `Expected ${body.paths.length} files, got ${files.length}.`)
    await services.database.transaction(async (manager) => {
      await services.records.keep(manager, new Map(files.map(({ sha256: hash, bytes }) => [hash, bytes])))
      for (const { name, sha256: hash, bytes } of files)
        await manager.upsert(
          EvidenceFiles,
          { engagementId, sha256: hash, name, size: bytes.length, broughtBy: caller.user.id, createdAt: new Date() },
          ['engagementId', 'sha256'],
        )
    })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'evidence uploaded',
      detail: { files: files.map(({ name, sha256: hash }) => ({ name, sha256: hash })) },
    })
    return files.map(({ name, sha256: hash, bytes }) => ({ name, sha256: hash, size: bytes.length }))
  }),
  route(downloadEvidence, async ({ services, engagementId, params, response }) => {
    const file = await services.database.getRepository(EvidenceFiles).findOneBy({ engagementId, sha256: params.sha256 })
    if (!file) throw notFound('file')
    // Whatever it is, it is handed over to be kept, never shown as a page of ours.
    response.setHeader('Content-Security-Policy', "default-src 'none'; sandbox")
    response.setHeader('Content-Disposition', `attachment; filename*=UTF-8''${encodeURIComponent(file.name)}`)
    response.type('application/octet-stream').send(Buffer.from(await services.records.bytes(file.sha256)))
    return undefined
  }),
  route(answerQuestion, async ({ services, caller, engagementId, body }) => {
    for (const { name, sha256: hash } of body.files)
      if (!(await services.database.getRepository(EvidenceFiles).existsBy({ engagementId, sha256: hash })))
        throw new Problem(422, `The file "${name}" was not uploaded. Upload it first.`)
    const { source } = await services.benchmarks.inEngagement(engagementId, body.benchmark)
    const question = source.attestations.find(({ id }) => id === body.attestation)
    if (!question) throw new Problem(422, `There is no question "${body.attestation}" in "${body.benchmark}".`)
    const at = new Date()
    const until = body.until === undefined ? new Date(at.getTime() + question.days * DAY) : new Date(body.until)
    if (until <= at) throw new Problem(422, 'The end of validity must be in the future.')
    await services.database
      .getRepository(Attestations)
      .insert({
        engagementId,
        benchmark: body.benchmark,
        attestation: body.attestation,
        outcome: body.outcome,
        note: body.note,
        files: body.files,
        answeredBy: caller.user.id,
        answeredByName: caller.user.fullName,
        at,
        until,
      })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'attested',
      detail: {
        benchmark: body.benchmark,
        attestation: body.attestation,
        outcome: body.outcome,
        until: until.toISOString(),
        files: body.files,
      },
    })
    return undefined
  }),
]
