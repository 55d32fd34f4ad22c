import { ENDPOINTS } from '@jurybox/api'
import { paramsSchema } from '@jurybox/api/parameters'
import { expect } from 'chai'
import { z } from 'zod'
import { endpoint } from '../../api/src/endpoint.ts'
import { fieldFaults } from '../src/http/invalid.ts'
import { ResponseMismatch, responseCheck } from '../src/http/response-check.ts'
import { ROUTES } from '../src/routes.ts'

describe('the contract', () => {
  it('is implemented whole, each endpoint once', () => {
    const implemented = ROUTES.map(({ endpoint: { method, path } }) => `${method} ${path}`)
    const stated = [...ENDPOINTS.values()].map(({ method, path }) => `${method} ${path}`)
    expect(implemented.toSorted()).to.deep.equal(stated.toSorted())
    expect(new Set(stated).size).to.equal(stated.length)
  })

  it('knows every parameter of every path', () => {
    for (const { path } of ENDPOINTS.values()) expect(() => paramsSchema(path), path).to.not.throw()
    expect(() => paramsSchema('/things/:thing')).to.throw('"/things/:thing" has a parameter that is not known: "thing"')
  })

  describe('a response that does not fit', () => {
    const get = { method: 'get', path: '/x', access: 'read', summary: '' } as const
    const cases: [name: string, check: () => void, fault: RegExp | null][] = [
      [
        'fits',
        () => responseCheck(endpoint({ ...get, response: z.strictObject({ a: z.string() }) }))({ a: '' }, false),
        null,
      ],
      [
        'has a field more',
        () => responseCheck(endpoint({ ...get, response: z.strictObject({ a: z.string() }) }))({ a: '', b: 1 }, false),
        /GET \/x does not fit its contract/,
      ],
      [
        'is of another type',
        () => responseCheck(endpoint({ ...get, response: z.number() }))('1', false),
        /GET \/x does not fit its contract/,
      ],
      [
        'is a time as JSON carries it',
        () => responseCheck(endpoint({ ...get, response: z.string() }))(new Date(0), false),
        null,
      ],
      ['is nothing where nothing is promised', () => responseCheck(endpoint(get))(undefined, false), null],
      ['is something where nothing is promised', () => responseCheck(endpoint(get))({}, false), /its contract nothing/],
      [
        'is no file where one is promised',
        () => responseCheck(endpoint({ ...get, file: 'text/csv' }))({}, false),
        /no file/,
      ],
      ['is a file that was sent', () => responseCheck(endpoint({ ...get, file: 'text/csv' }))(undefined, true), null],
    ]
    for (const [name, check, fault] of cases)
      it(name, () => (fault === null ? check() : expect(check).to.throw(ResponseMismatch, fault)))
  })

  describe('a field that is wrong is told in plain words', () => {
    const schema = z.strictObject({
      title: z.string().min(1).max(5),
      count: z.int().min(1).max(9),
      kind: z.enum(['a', 'b']),
      when: z.iso.datetime(),
      tags: z.array(z.string()).min(1),
    })
    const right = { title: 'x', count: 1, kind: 'a', when: '2026-11-30T09:00:00Z', tags: ['t'] }
    const cases: [wrong: object, field: string, message: string][] = [
      [{ title: undefined }, 'title', 'is required'],
      [{ title: '' }, 'title', 'is required'],
      [{ title: 'too long' }, 'title', 'may have at most 5 characters'],
      [{ title: 7 }, 'title', 'must be a string'],
      [{ count: 0 }, 'count', 'must be at least 1'],
      [{ count: 10 }, 'count', 'must be at most 9'],
      [{ kind: 'c' }, 'kind', 'must be one of: a, b'],
      [{ when: 'soon' }, 'when', 'must be a date and time with its zone, such as 2026-11-30T09:00:00Z'],
      [{ tags: [] }, 'tags', 'is required'],
      [{ tags: [1] }, 'tags.0', 'must be a string'],
      [{ other: 1 }, '', 'has an unknown field: other'],
    ]
    for (const [wrong, field, message] of cases)
      it(`${JSON.stringify(wrong)}: ${field} ${message}`, () => {
        const result = schema.safeParse({ ...right, ...wrong })
        expect(result.error && fieldFaults(result.error)).to.deep.equal([{ field, message }])
      })
  })
})
