import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  TEXTS,
  amountOf,
  feedItems,
  feedSchema,
  filledIn,
  guessFields,
  isOutOfStock,
  isWanted,
  itemDigest,
  letters,
  stopReason,
  unknownFields,
  type Feed,
  type FeedRow
} from '@tin-harbor/core/creative'
import { parseInput } from '@tin-harbor/core/input'

const FEED: Feed = {
  name: 'Shop',
  address: 'https://shop.example/feed.xml',
  fields: { key: 'id', title: 'title', text: 'says', link: 'link', picture: 'image', price: 'price', stock: 'stock' },
  template: { headline: '{title}', longHeadline: '{title} for {price}', text: '{text}', button: 'See it', brand: 'Shop', icon: '' },
  which: { words: '', least: null, most: null },
  changed: 'goes on'
}
const row = (over: Record<string, string> = {}): FeedRow => ({
  id: 'A-1',
  title: 'Lamp',
  says: 'A lamp of brass.',
  link: 'https://shop.example/lamp',
  image: 'https://shop.example/lamp.png',
  price: '20.50 EUR',
  stock: '3',
  ...over
})

describe('fields of a feed', () => {
  it.each([
    [['guid', 'title', 'link', 'enclosure@url', 'g:price'], { key: 'guid', link: 'link', picture: 'enclosure@url', price: 'g:price' }],
    [['sku', 'name', 'url', 'offer/price', 'offer/availability'], { key: 'sku', title: 'name', link: 'url', stock: 'offer/availability' }],
    [['link', 'title', 'image/url'], { key: 'link', link: 'link', picture: 'image/url', price: '' }]
  ])('are known by their names: %j', (names, known) => {
    expect(guessFields(names)).toMatchObject(known)
  })

  it('that templates name and no item has are told', () => {
    const feed = { ...FEED, template: { ...FEED.template, text: '{text} in {colour}, {size}' } }
    expect(unknownFields(feed, ['size'])).toEqual(['colour'])
  })
})

describe('what an item says', () => {
  it.each([
    ['0', true],
    ['-1', true],
    ['0,0', true],
    ['OutOfStock', true],
    ['https://schema.org/SoldOut', true],
    ['out of stock', true],
    ['No', true],
    ['3', false],
    ['InStock', false],
    ['', false],
    ['preorder', false]
  ])('a stock of “%s” is out: %s', (stock, isOut) => {
    expect(isOutOfStock(stock)).toBe(isOut)
  })

  it.each([
    ['20.50 EUR', 20.5],
    ['€1.299,00', 1299],
    ['1,299.5', 1299.5],
    ["CHF 1'200", 1200],
    ['1 990 kr', 1990],
    ['12', 12],
    ['a lot', null],
    ['5 for 10', null],
    ['', null]
  ])('a price of “%s” is %s', (price, amount) => {
    expect(amountOf(price)).toBe(amount)
  })

  it('fills templates in, and leaves nothing where it says nothing', () => {
    expect(filledIn('{title}  now {gone} {price}!', (field) => ({ title: 'Lamp', price: '20' })[field] ?? '')).toBe('Lamp now 20!')
  })
})

describe('items of a feed', () => {
  it('are those that make an ad; each other is named by its place with what is wrong', () => {
    const rows = [
      row(),
      row({ title: 'Again' }),
      row({ id: '' }),
      row({ id: 'A-4', link: 'javascript:alert(1)' }),
      row({ id: 'A-5', price: 'dear' }),
      row({ id: 'A-6', image: 'lamp.png' }),
      row({ id: 'A-7', says: ' ' }),
      row({ id: 'A-8', stock: '0' })
    ]
    const { items, broken } = feedItems(rows, FEED, new Map([[7, 'It has fewer fields than there are names.']]))
    expect(items.map(({ nth }) => nth)).toEqual([1])
    expect(broken.map(({ nth, says }) => `${nth}: ${says}`)).toEqual([
      '2: “A-1”: Item 1 has the same key.',
      '3: It has no key.',
      '4: “A-4”: Its link “javascript:alert(1)” is no web address.',
      '5: “A-5”: Its price “dear” is no number.',
      '6: “A-6”: Its picture “lamp.png” is no web address.',
      '7: “A-7”: The text would be empty.',
      '8: “A-8”: It has fewer fields than there are names.'
    ])
    expect(feedItems(rows.slice(7), FEED).items[0].item.isOut).toBe(true)
  })

  it('of any text come whole or are named, once each, and no text of an ad is longer than its slot shows', () => {
    const text = fc.string({ unit: 'grapheme', maxLength: 140 })
    const rows = fc.array(
      fc.record({ id: fc.string({ maxLength: 3 }), title: text, says: text, link: fc.webUrl(), price: fc.string({ maxLength: 8 }) }),
      {
        maxLength: 12
      }
    )
    fc.assert(
      fc.property(rows, (all) => {
        const { items, broken } = feedItems(all, FEED)
        const places = [...items.map(({ nth }) => nth), ...broken.map(({ nth }) => nth)].sort((a, b) => a - b)
        expect(places).toEqual(all.map((_, n) => n + 1))
        expect(new Set(items.map(({ item }) => item.key)).size).toBe(items.length)
        for (const { item } of items)
          for (const part of ['headline', 'longHeadline', 'text', 'button', 'brand'] as const) {
            expect(letters(item.texts[part])).toBeLessThanOrEqual(TEXTS.native[part].most)
            expect(item.texts[part]).not.toBe('')
          }
      }),
      { numRuns: 100 }
    )
  })

  it('are wanted by words and price', () => {
    const [{ item }] = feedItems([row()], FEED).items
    expect(isWanted(item, { words: 'brass LAMP', least: null, most: null })).toBe(true)
    expect(isWanted(item, { words: 'iron', least: null, most: null })).toBe(false)
    expect(isWanted(item, { words: '', least: 20.5, most: 20.5 })).toBe(true)
    expect(isWanted({ ...item, amount: null }, { words: '', least: 1, most: null })).toBe(false)
  })

  it('make another ad when a text, the picture or the link is another, and by nothing else', () => {
    const digest = (over: Record<string, string>) => itemDigest(feedItems([row(over)], FEED).items[0].item)
    expect(digest({ stock: '0' })).toBe(digest({}))
    const others: Record<string, string>[] = [
      { title: 'Lantern' },
      { price: '21' },
      { image: 'https://shop.example/b.png' },
      { link: 'https://shop.example/b' }
    ]
    for (const over of others) expect(digest(over)).not.toBe(digest({}))
  })

  it('stop their ads when they cannot be had, and for another text only where that is wanted', () => {
    expect(stopReason('Shop', 'out', false, 'goes on')).toBe('out of stock in “Shop”')
    expect(stopReason('Shop', 'gone', false, 'goes on')).toBe('gone from “Shop”')
    expect(stopReason('Shop', 'there', true, 'goes on')).toBeNull()
    expect(stopReason('Shop', 'there', true, 'stops')).toContain('something else')
    expect(stopReason('Shop', 'there', false, 'stops')).toBeNull()
  })

  it.each([
    ['address', 'http://shop.example/feed'],
    ['address', 'https://shop'],
    ['name', ' '],
    ['changed', 'perhaps']
  ])('of a feed whose %s is “%s” are not read', (field, value) => {
    expect(() => parseInput(feedSchema, { ...FEED, [field]: value })).toThrow(
      expect.objectContaining({ issues: [expect.objectContaining({ field })] }) as Error
    )
  })
})
