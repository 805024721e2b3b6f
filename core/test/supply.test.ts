import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { checkChain, namesSubdomain, parseAdsTxt, parseSellersJson } from '../src/supply/index.js'

const RECORD = 'tidewater.example, pub-1, DIRECT, abc'

describe('ads.txt', () => {
  it('reads records whatever their spaces, case, comments, extensions and line ends', () => {
    const { records, problems } = parseAdsTxt(
      `\uFEFFTidewater.EXAMPLE ,  Pub-1 , direct , abc # ours\r\n\r\n# a comment\r\tsluice.example,\t7,RESELLER;x=1\npennant.example, 9, RESELLER`
    )
    expect(records).toEqual([
      { line: 1, system: 'tidewater.example', seller: 'Pub-1', relation: 'DIRECT', certification: 'abc' },
      { line: 4, system: 'sluice.example', seller: '7', relation: 'RESELLER', certification: null },
      { line: 5, system: 'pennant.example', seller: '9', relation: 'RESELLER', certification: null }
    ])
    expect(problems).toEqual([])
  })

  it('reads variables, and knows those that stand once', () => {
    const { variables, problems } = parseAdsTxt(
      'contact=ads@a.example\nCONTACT = other@a.example\nSUBDOMAIN=News.a.example\nOWNERDOMAIN=a.example\nOWNERDOMAIN=b.example\nCOLOUR=blue\nMANAGERDOMAIN=not a domain\nSUBDOMAIN='
    )
    expect(variables).toEqual({ CONTACT: ['ads@a.example', 'other@a.example'], SUBDOMAIN: ['news.a.example'], OWNERDOMAIN: ['a.example'] })
    expect(problems.map(({ line }) => line)).toEqual([5, 6, 7, 8])
    expect([
      namesSubdomain(parseAdsTxt('SUBDOMAIN=news.a.example'), 'NEWS.a.example'),
      namesSubdomain(parseAdsTxt(RECORD), 'news.a.example')
    ]).toEqual([true, false])
  })

  it.each([
    ['tidewater.example pub-1 DIRECT', 'commas'],
    ['tidewater, pub-1, DIRECT', 'not a domain'],
    ['tidewater.example, , DIRECT', 'account is missing'],
    ['tidewater.example, pub-1, OWNER', 'DIRECT or RESELLER, not "OWNER"'],
    [`${RECORD}\n${RECORD}`, 'line 1'],
    ['-bad-.example, 1, DIRECT', 'not a domain']
  ])('tells what is wrong with %j, and goes on', (text, message) => {
    const { problems, records } = parseAdsTxt(`${text}\nsluice.example, 5, DIRECT`)
    expect(problems[0].message).toContain(message)
    expect(records.at(-1)?.system).toBe('sluice.example')
  })

  it('takes the placeholder as nobody, and never throws', () => {
    expect(parseAdsTxt('placeholder.example.com, placeholder, DIRECT, placeholder')).toEqual({ records: [], variables: {}, problems: [] })
    fc.assert(
      fc.property(fc.string(), (text) => {
        const { records } = parseAdsTxt(text)
        expect(records.every((record) => record.seller !== '' && record.system.includes('.'))).toBe(true)
      })
    )
  })
})

describe('sellers.json', () => {
  const file = (sellers: unknown[]) => JSON.stringify({ version: '1.0', sellers })
  it('reads sellers, numbers as ids, and hides what is confidential', () => {
    const { sellers, problems } = parseSellersJson(
      `\uFEFF${file([
        { seller_id: 12, name: 'A', domain: 'A.example', seller_type: 'publisher' },
        { seller_id: 'x', is_confidential: 1, name: 'B', seller_type: 'BOTH' }
      ])}`
    )
    expect([sellers.get('12'), sellers.get('x')]).toEqual([
      { id: '12', name: 'A', domain: 'a.example', type: 'PUBLISHER', isConfidential: false },
      { id: 'x', name: null, domain: null, type: 'BOTH', isConfidential: true }
    ])
    expect(problems).toEqual([])
  })

  it('tells what it cannot read', () => {
    expect(parseSellersJson('{').problems).toEqual(['The file is not JSON.'])
    expect(parseSellersJson('[]').problems).toEqual(['The file has no list of sellers.'])
    const { sellers, problems } = parseSellersJson(
      file([
        null,
        { seller_id: 'a', seller_type: 'SHOP' },
        { seller_id: 'b', seller_type: 'PUBLISHER' },
        { seller_id: 'b', name: 'twice', domain: 'b.example', seller_type: 'BOTH' }
      ])
    )
    expect(problems).toHaveLength(4)
    expect([...sellers.keys()]).toEqual(['b'])
    fc.assert(fc.property(fc.json(), (text) => void parseSellersJson(text)))
  })
})

describe('a chain', () => {
  const adsTxt = parseAdsTxt('tidewater.example, pub-1, DIRECT\nsluice.example, res-2, RESELLER\nOWNERDOMAIN=house.example')
  const sellers = parseSellersJson(
    JSON.stringify({
      sellers: [
        { seller_id: 'pub-1', name: 'A', domain: 'a.example', seller_type: 'PUBLISHER' },
        { seller_id: 'res-2', name: 'R', domain: 'r.example', seller_type: 'INTERMEDIARY' },
        { seller_id: 'house', name: 'H', domain: 'house.example', seller_type: 'PUBLISHER' }
      ]
    })
  )
  const own = { system: 'tidewater.example', seller: 'pub-1', relation: 'DIRECT' as const }
  const resold = { system: 'sluice.example', seller: 'res-2', relation: 'RESELLER' as const }

  it('closes where both files say the same', () => {
    expect(checkChain(own, adsTxt, sellers, 'a.example')).toEqual({ ok: true, line: 1 })
    expect(checkChain(resold, adsTxt, sellers, 'a.example')).toEqual({ ok: true, line: 2 })
    expect(
      checkChain(
        { ...own, seller: 'house' },
        parseAdsTxt('tidewater.example, house, DIRECT\nOWNERDOMAIN=house.example'),
        sellers,
        'a.example'
      )
    ).toEqual({ ok: true, line: 1 })
  })

  it.each([
    ['no file', own, null, sellers, 'has no ads.txt'],
    ['a system it does not name', { ...own, system: 'pennant.example' }, adsTxt, sellers, 'does not name pennant'],
    ['another account', { ...own, seller: 'pub-9' }, adsTxt, sellers, 'not the account pub-9'],
    ['a wrong relation', { ...own, relation: 'RESELLER' as const }, adsTxt, sellers, 'calls the account DIRECT'],
    ['no sellers.json', own, adsTxt, null, 'no sellers.json'],
    ['a seller it does not know', own, adsTxt, parseSellersJson('{"sellers":[]}'), 'does not close'],
    [
      'an intermediary as publisher',
      { ...resold, relation: 'DIRECT' as const },
      parseAdsTxt('sluice.example, res-2, DIRECT'),
      sellers,
      'knows it as an intermediary'
    ],
    ['somebody else’s account', own, parseAdsTxt('tidewater.example, pub-1, DIRECT'), sellers, 'belongs to a.example']
  ])('does not with %s', (_, offer, file, known, problem) => {
    const verdict = checkChain(offer, file, known, problem.includes('belongs') ? 'b.example' : 'a.example')
    expect(verdict.ok ? '' : verdict.problem).toContain(problem)
  })
})
