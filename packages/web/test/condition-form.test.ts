import { CONDITION_FORMS } from '@jurybox/core/rules'
import { expect } from 'chai'
import { fieldOf, formOf, withField } from '../src/rules/condition-form.ts'

describe('the form of a condition', () => {
  it('is found for every kind that it offers, and for a plain line', () => {
    for (const { key, start } of CONDITION_FORMS) expect(formOf(start)?.key, key).to.equal(key)
    expect(formOf('ip domain name *')?.key).to.equal('line')
  })
  it('is none for what is no condition', () => {
    for (const one of [null, undefined, 3, {}, { nothing: 'known' }]) expect(formOf(one)).to.equal(null)
  })
  it('reads each field that it shows', () => {
    for (const { key, start, fields } of CONDITION_FORMS)
      for (const { path, optional, as } of fields)
        if (!optional && as !== 'flag') expect(fieldOf(start, path), `${key} ${path.join('.')}`).not.to.equal(undefined)
  })
})

describe('a field of a condition that is changed', () => {
  it('leaves a plain line as short as it was', () => {
    expect(withField('ip http server', ['line'], 'no ip http server')).to.equal('no ip http server')
    expect(withField({ line: 'a', in: 'b' }, ['in'], undefined)).to.equal('a')
  })
  it('makes it longer where more is asked', () => {
    expect(withField('a', ['in'], 'interface *')).to.deep.equal({ line: 'a', in: 'interface *' })
    expect(withField('a', ['line'], ['a', 'b'])).to.deep.equal({ line: ['a', 'b'] })
  })
  it('reaches into a field, and leaves what was given as it was', () => {
    const before = { count: { of: 'ntp server ...', atLeast: 2 } }
    expect(withField(before, ['count', 'atMost'], 4)).to.deep.equal({
      count: { of: 'ntp server ...', atLeast: 2, atMost: 4 },
    })
    expect(withField(before, ['count', 'atLeast'], undefined)).to.deep.equal({ count: { of: 'ntp server ...' } })
    expect(before).to.deep.equal({ count: { of: 'ntp server ...', atLeast: 2 } })
  })
  it('of what is no condition yet begins one', () => {
    expect(withField(null, ['model'], 'true')).to.deep.equal({ model: 'true' })
  })
})
