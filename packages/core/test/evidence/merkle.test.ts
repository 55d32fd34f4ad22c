import { bytesToHex, hexToBytes } from '@noble/hashes/utils.js'
import { expect } from 'chai'
import fc from 'fast-check'
import { auditPath, headByPath, leafHash, treeHead } from '../../src/evidence/index.ts'
import { sha256Hex } from '../../src/syntax/index.ts'

/** Leaves and heads that accompany RFC 6962 in its reference code. From memory. */
const LEAVES = ['', '00', '10', '2021', '3031', '40414243', '5051525354555657', '606162636465666768696a6b6c6d6e6f'].map(
  hexToBytes,
)
const HEADS = [
  'e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855',
  '6e340b9cffb37a989ca544e6bb780a2c78901d3fb33738768511a30617afa01d',
  'fac54203e7cc696cf0dfcb42c92a1d9dbaf70ad9e621f4bd8d98662f00e3c125',
  'aeb6bcfe274b70a14fb067a5e5578264db0fa9b51af5e0ba159158f329e06e77',
  'd37ee418976dd95753c1c73862b9398fa2a2cf9b4ff0fdfe8b30cd95209614b7',
  '4e3bbb1f7b478dcfe71fb631631519a3bca12c9aefca1612bfce4c13a86264d4',
  '76e67dadbcdf1e10e1b74ddc608abd2f98dfb16fbce75277b5232a127f2087ef',
  'ddb89be403809e325750d3d263cd78929c2942b7942a34b77e122c9594a74c8c',
  '5dc9da79a70659a9ad559cb701ded9a2ab9d823aad2f4960cfe370eff4604328',
]

describe('hash trees of RFC 6962', () => {
  for (const [size, head] of HEADS.entries())
    it(`the head of ${size} leaves`, () => expect(bytesToHex(treeHead(LEAVES.slice(0, size)))).to.equal(head))

  it('the paths of the tree of seven leaves in RFC 6962 §2.1.3', () => {
    const seven = LEAVES.slice(0, 7)
    const head = (from: number, to: number): string => bytesToHex(treeHead(seven.slice(from, to)))
    const path = (index: number): string[] => auditPath(seven, index).map(bytesToHex)
    // a…f, j are leaves d0…d6; g = (a, b), h = (c, d), i = (e, f), k = (g, h), l = (i, j).
    expect(path(0)).to.deep.equal([head(1, 2), head(2, 4), head(4, 7)])
    expect(path(3)).to.deep.equal([head(2, 3), head(0, 2), head(4, 7)])
    expect(path(4)).to.deep.equal([head(5, 6), head(6, 7), head(0, 4)])
    expect(path(6)).to.deep.equal([head(4, 6), head(0, 4)])
  })

  it('a leaf shows by its path, and neither another leaf nor another place does', () => {
    fc.assert(
      fc.property(fc.array(fc.uint8Array({ maxLength: 8 }), { minLength: 1, maxLength: 70 }), fc.nat(), (all, at) => {
        const index = at % all.length
        const leaf = all[index] ?? new Uint8Array()
        const path = auditPath(all, index)
        const head = bytesToHex(treeHead(all))
        const by = (one: Uint8Array, place: object = {}): string | null => {
          const found = headByPath(one, { index, size: all.length, path, ...place })
          return found && bytesToHex(found)
        }
        expect(by(leaf)).to.equal(head)
        expect(by(Uint8Array.of(...leaf, 1))).not.to.equal(head)
        expect(by(leaf, { index: all.length })).to.equal(null)
        expect(by(leaf, { path: [...path, leafHash(leaf)] })).not.to.equal(head)
      }),
    )
  })

  it('SHA-256 of the examples of FIPS 180-4', () => {
    const of = (text: string): string => sha256Hex(new TextEncoder().encode(text))
    expect(of('abc')).to.equal('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad')
    expect(of('abcdbcdecdefdefgefghfghighijhijkijkljklmklmnlmnomnopnopq')).to.equal(
      '248d6a61d20638b8e5c026930c3e6039a33ce45964ff2167f6ecedd419db06c1',
    )
    expect(of('a'.repeat(1_000_000))).to.equal('cdc76e5c9914fb9281a1c7e284d73e67f1809a48a497200e046d39ccc7112cd0')
  })
})
