import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  CLICK_MACRO,
  MACROS,
  TAIL_PRESETS,
  exampleLink,
  filledLink,
  hasMacro,
  linkFindings,
  linkParts,
  piecesOf,
  vastLink
} from '@tin-harbor/core/creative'
import { campaignSchema, joinedTails, withTail } from '@tin-harbor/core/buying'
import { parseInput } from '@tin-harbor/core/input'

const SHOP = 'https://shop.example/lamp'
const says = (link: string, wantsClicks = false) => linkFindings(link, { wantsClicks }).map((one) => one.says)

describe('macros', () => {
  it('are known once each, and called as the standards call them', () => {
    const names = MACROS.map(({ name }) => name)
    expect(new Set(names).size).toBe(names.length)
    for (const { name, vast, example, what } of MACROS) {
      expect(name).toMatch(/^[A-Z][A-Z_]+$/)
      expect([what.length > 5, example.length > 0, vast === null || /^[A-Z]+$/.test(vast)]).toEqual([true, true, true])
    }
    expect(names).toEqual(expect.arrayContaining(['AUCTION_PRICE', 'CACHEBUSTING', 'TIMESTAMP', 'GDPR_CONSENT', 'CLICK_ID']))
  })

  it('are told apart from what is written round them, and all of it is there', () => {
    expect(piecesOf('a=${CLICK_ID}&b=${FOO}&c=${LINE_ID').map(({ is, text }) => [is, text])).toEqual([
      ['text', 'a='],
      ['macro', '${CLICK_ID}'],
      ['text', '&b='],
      ['macro', '${FOO}'],
      ['text', '&c='],
      ['unclosed', '${LINE_ID']
    ])
    fc.assert(
      fc.property(fc.array(fc.constantFrom('${', '}', 'CLICK_ID', '${AD_ID}', '$', '{', 'x', '&', '=')), (written) => {
        expect(
          piecesOf(written.join(''))
            .map(({ text }) => text)
            .join('')
        ).toBe(written.join(''))
      })
    )
  })

  it('are filled in behind the host alone and encoded, so that no value leads anywhere else or adds a parameter', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 40 }), (value) => {
        const safe = value.replace(/\p{Cs}/gu, '')
        const filled = new URL(filledLink(`${SHOP}?c=\${CLICK_ID}&d=1#\${AD_ID}`, () => value))
        expect(filled.host).toBe('shop.example')
        expect([...filled.searchParams.keys()]).toEqual(['c', 'd'])
        expect(filled.searchParams.get('c')).toBe(safe)
      })
    )
    // A host is as it was written, whatever stands in it.
    expect(filledLink('https://${PROPERTY}.evil.example/${AD_ID}', () => 'x.example')).toBe('https://${PROPERTY}.evil.example/x.example')
    expect(filledLink(`${SHOP}?c=\${CLICK_ID}&n=\${NOBODY}`, () => null)).toBe(`${SHOP}?c=&n=\${NOBODY}`)
    expect(exampleLink(`${SHOP}?n=\${LINE_NAME}`)).toBe(`${SHOP}?n=Native%2C%20phones%2C%20DE`)
  })

  it('have their own form inside VAST', () => {
    expect(vastLink(`${SHOP}?c=\${CLICK_ID}&d=\${PROPERTY}&x=\${FOO}`)).toBe(`${SHOP}?c=[CLICK_ID]&d=[DOMAIN]&x=\${FOO}`)
    expect([hasMacro(CLICK_MACRO, 'CLICK_ID'), hasMacro('{click_id}', 'CLICK_ID')]).toEqual([true, false])
  })
})

describe('the documented table', () => {
  it('has every macro as it is', () => {
    const formats = readFileSync(new URL('../../docs/formats.md', import.meta.url), 'utf8')
    for (const { name, vast, what, from, example } of MACROS)
      expect(formats).toContain(`| \`\${${name}}\` | \`[${vast ?? name}]\` | ${what} | ${from} | \`${example}\` |`)
  })
})

describe('a link', () => {
  it('is told apart into its parts, which are all of it', () => {
    expect(linkParts('https://shop.example:8443/a/b?x=1&y=2#top')).toEqual({
      address: 'https://shop.example:8443',
      path: '/a/b',
      query: ['x=1', 'y=2'],
      fragment: 'top'
    })
  })

  it.each([
    [`${SHOP}?c=\${CLICK_ID}`, []],
    [`${SHOP}?c=\${clickid}`, ['Nothing is known by ${clickid}; ${CLICK_ID} may be meant: it would stand there as it is.']],
    [`${SHOP}?c=\${WHO}`, ['Nothing is known by ${WHO}: it would stand there as it is.']],
    [`${SHOP}?c=\${CLICK_ID`, ['“${CLICK_ID” is not closed: a macro ends with }.']],
    [`${SHOP}?a=1&b=2&a=3`, ['The parameter a is there twice; which of them counts is up to the page.']],
    ['javascript:alert(1)', ['A link leads to a page, and runs nothing.']],
    ['https://a:b@shop.example/', ['A link with a name or a password in it is not taken.']],
    ['https://${PROPERTY}/x', ['No macro stands in the host: whoever fills it in would say where people go.']],
    [`${SHOP}?${'x'.repeat(4000)}`, [expect.stringContaining('at most 1000 letters; with its tail this has 4026') as string]]
  ])('is looked over: %s', (link, wanted) => {
    expect(says(link)).toEqual(wanted)
  })

  it('without a click id loses conversions where they are wanted; what can be mended is', () => {
    expect(says(SHOP, true)).toEqual([expect.stringContaining('carries no click id')])
    expect(says(withTail(SHOP, TAIL_PRESETS['The click alone']), true)).toEqual([])
    expect(linkFindings(`${SHOP}?a=1&b=2&a=3#top`, { wantsClicks: false })[0].instead).toBe(`${SHOP}?b=2&a=3#top`)
    expect(linkFindings(`${SHOP}?c=\${lineId}`, { wantsClicks: false })[0].instead).toBe(`${SHOP}?c=\${LINE_ID}`)
  })

  it('has the tails of its advertiser and its campaign, the usual ones among them', () => {
    expect(withTail(`${SHOP}#top`, joinedTails('a=1', undefined, 'b=2'))).toBe(`${SHOP}?a=1&b=2#top`)
    const flight = { startDate: '2026-03-02', endDate: null }
    const campaign = { name: 'C', goal: 'visits', flight, budget: { totalMicros: null, dailyMicros: null } }
    for (const linkTail of Object.values(TAIL_PRESETS)) {
      expect(parseInput(campaignSchema, { ...campaign, linkTail }).linkTail).toBe(linkTail)
      expect(says(withTail(SHOP, linkTail))).toEqual([])
    }
  })
})
