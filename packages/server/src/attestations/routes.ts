import {
  answerQuestion,
  downloadEvidence,
  listQuestions,
  requestAnswer,
  reviewAnswer,
  uploadEvidence,
  withdrawRequest,
} from '@jurybox/api/questions'
import { may } from '@jurybox/api/roles'
import { answersTo } from '@jurybox/core/benchmarks'
import { In } from 'typeorm'
import { Users } from '../auth/entity.ts'
import { Memberships } from '../engagements/entity.ts'
import { AnswerRequests, Attestations, EvidenceFiles } from './entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { sha256 } from '../vault/vault.ts'
import type { Services } from '../services.ts'
import { answerIn } from './answers.ts'

const DAY = 86_400_000
const NOT_REVIEWED = {
  review: null,
  reviewNote: null,
  reviewedBy: null,
  reviewedByName: null,
  reviewedAt: null,
} as const

/** Answers that are asked for, by benchmark and question. */
async function requestsIn({ database }: Services, engagementId: number) {
  const rows = await database.getRepository(AnswerRequests).findBy({ engagementId })
  const users = await database.getRepository(Users).findBy({ id: In(rows.map(({ askedOf }) => askedOf)) })
  const names = new Map(users.map(({ id, fullName }) => [id, fullName]))
  const today = new Date().toISOString().slice(0, 10)
  return new Map(
    rows.map(({ id, benchmark, attestation, askedOf, dueOn, note, askedByName }) => [
      `${benchmark} ${attestation}`,
      {
        id,
        of: { id: askedOf, name: names.get(askedOf) ?? '' },
        due: dueOn,
        overdue: dueOn < today,
        note,
        by: askedByName,
      },
    ]),
  )
}

/** @throws Problem where the benchmark has no such question */
async function questionIn({ benchmarks }: Services, engagementId: number, benchmark: string, id: string) {
  const { source } = await benchmarks.inEngagement(engagementId, benchmark)
  const question = source.attestations.find((one) => one.id === id)
  if (!question) throw new Problem(422, `There is no question "${id}" in "${benchmark}".`)
  return question
}

export const attestationRoutes = [
  route(listQuestions, async ({ services, caller, engagementId }) => {
    const rows = await services.database
      .getRepository(Attestations)
      .find({ where: { engagementId }, order: { id: 'ASC' } })
    const stored = new Map(rows.map((row) => [answerIn(row), row]))
    const requests = await requestsIn(services, engagementId)
    const sources = (await services.benchmarks.allIn(engagementId)).map(({ benchmark }) => benchmark.source)
    return sources.flatMap((source) =>
      answersTo(source, [...stored.keys()], Date.now()).map(
        ({ source: question, benchmark, outcome, answer, expired }) => ({
          benchmark,
          ...question,
          outcome,
          expired,
          answer: answer && {
            ...answer,
            id: stored.get(answer)?.id ?? 0,
            mayReview: stored.get(answer)?.answeredBy !== caller.user.id,
          },
          request: requests.get(`${benchmark} ${question.id}`) ?? null,
        }),
      ),
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
    const question = await questionIn(services, engagementId, body.benchmark, body.attestation)
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
        ...NOT_REVIEWED,
      })
    await services.database
      .getRepository(AnswerRequests)
      .delete({ engagementId, benchmark: body.benchmark, attestation: body.attestation })
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
  route(requestAnswer, async ({ services, caller, engagementId, body }) => {
    const { benchmark, attestation, of, due, note } = body
    const question = await questionIn(services, engagementId, benchmark, attestation)
    const membership = await services.database.getRepository(Memberships).findOneBy({ engagementId, userId: of })
    if (!membership || !may(membership.role, 'attest'))
      throw new Problem(422, 'Choose a member of this engagement who may answer questions.')
    const { fullName } = await services.database.getRepository(Users).findOneByOrFail({ id: of })
    const request = {
      ...{ engagementId, benchmark, attestation, askedOf: of, dueOn: due, note },
      ...{ askedBy: caller.user.id, askedByName: caller.user.fullName, askedAt: new Date() },
    }
    await services.database.getRepository(AnswerRequests).upsert(request, ['engagementId', 'benchmark', 'attestation'])
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'answer requested',
      detail: { benchmark, attestation, of: fullName, due },
    })
    await services.alerts.requested({ id: 0, ...request }, question.title, fullName)
    return undefined
  }),
  route(withdrawRequest, async ({ services, caller, engagementId, params }) => {
    const requests = services.database.getRepository(AnswerRequests)
    const request = await requests.findOneBy({ engagementId, id: params.request })
    if (!request) throw notFound('request')
    await requests.delete({ id: request.id })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'answer request withdrawn',
      detail: { benchmark: request.benchmark, attestation: request.attestation },
    })
    return undefined
  }),
  route(reviewAnswer, async ({ services, caller, engagementId, params, body }) => {
    const answers = services.database.getRepository(Attestations)
    const answer = await answers.findOneBy({ engagementId, id: params.answer })
    if (!answer) throw notFound('answer')
    if (answer.answeredBy === caller.user.id)
      throw new Problem(422, 'Another person must review an answer, not the one who gave it.')
    if (body.outcome === 'returned' && body.note.length < 3)
      throw new Problem(422, 'Say what is missing when you send an answer back.')
    await answers.update(
      { id: answer.id },
      {
        review: body.outcome,
        reviewNote: body.note,
        reviewedBy: caller.user.id,
        reviewedByName: caller.user.fullName,
        reviewedAt: new Date(),
      },
    )
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'answer reviewed',
      detail: { benchmark: answer.benchmark, attestation: answer.attestation, outcome: body.outcome, note: body.note },
    })
    return undefined
  }),
]
