import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { LineView, PlateDrawn, PlateMade, PlateView } from '@tin-harbor/core/contract'
import {
  PLATE_SHAPES,
  SPECIFICATION,
  fileContent,
  plateParts,
  contentOf,
  type PartSpecification,
  type Plate
} from '@tin-harbor/core/creative'
import { publicationRules, readMarket } from '../src/going-live/publications.js'
import { measureLetters, missingLetters } from '../src/plates/letters.js'
import { libraryOf } from './support/library.js'
import { lineDraft, newToken, readyLine, testServer, READER, TRADER, type Ask, type TestServer } from './support/server.js'

type Refusal = { title?: string; issues?: { field: string; message: string }[] }
const ADVERTISER = 3
let server: TestServer
let ask: Ask
const files: Record<'photo' | 'cut', string> = { photo: '', cut: '' }

beforeAll(async () => {
  server = await testServer('plates')
  ask = await server.as(TRADER)
  const library = libraryOf(server, ask, ADVERTISER)
  // Noise is as heavy as a picture can be.
  const noise = sharp({
    create: { width: 1600, height: 1200, channels: 3, background: '#000000', noise: { type: 'gaussian', mean: 128, sigma: 60 } }
  })
  files.photo = `sha256:${(await library.added('photo.jpg', await noise.jpeg({ quality: 90 }).toBuffer())).sha256}`
  const cut = sharp({ create: { width: 500, height: 400, channels: 4, background: { r: 200, g: 40, b: 40, alpha: 0.5 } } })
  files.cut = `sha256:${(await library.added('cut.png', await cut.png().toBuffer())).sha256}`
})
afterAll(() => server.close())

const plateOf = (over: Partial<Plate> = {}): Plate => ({
  name: 'Kana',
  layout: 'veil',
  headline: 'A stroke a day',
  text: 'Learn to write kana in thirty days.',
  brand: 'Inkwell Kana',
  button: 'Begin',
  image: '',
  whole: false,
  cover: files.cut,
  focal: { x: 0.5, y: 0.5 },
  ground: '#16323c',
  accent: '#d9a441',
  sizes: [...PLATE_SHAPES],
  ...over
})
const added = async (plate: Plate) => (await ask<PlateView>('POST', `/advertisers/${ADVERTISER}/plates`, { plate })).body
const drawn = async (id: number, plate: Plate) => (await ask<PlateDrawn[]>('POST', `/plates/${id}/drawn`, { plate })).body
const make = (id: number, version: number, line: number | null = null, replaces = true) =>
  ask<PlateMade & Refusal>('POST', `/plates/${id}/make`, { version, line, replaces })

describe('letters of pictures', () => {
  it('are those of the fonts that ship with the server, of western and other Latin alphabets; others are named', () => {
    expect(measureLetters('Wide', 'bold', 20)).toBeGreaterThan(measureLetters('Wide', 'plain', 20))
    expect(measureLetters('two words', 'plain', 10)).toBeCloseTo(measureLetters('two words', 'plain', 20) / 2, 6)
    expect(missingLetters('Čokoláda, ürün, ação €')).toEqual([])
    expect(missingLetters('かな kana')).toEqual(['か', 'な'])
  })
})

describe('a plate', () => {
  it('is drawn in every size as it is typed, under the weight of each slot, as dense as that allows', async () => {
    const { id } = await added(plateOf())
    const all = await drawn(id, plateOf())
    expect(all.map(({ shape, problem }) => [shape, problem])).toEqual(PLATE_SHAPES.map((shape) => [shape, null]))
    for (const { png, width, height, times, bytes, shape } of all) {
      const { width: wide, height: tall, format } = await sharp(Buffer.from(png ?? '', 'base64')).metadata()
      expect([wide, tall, format]).toEqual([width * times, height * times, 'png'])
      const most = SPECIFICATION[shape].find(({ medium }: PartSpecification) => medium === 'picture')?.mostBytes ?? 0
      expect(bytes).toBeLessThanOrEqual(most)
      expect(times).toBe(2)
    }
    // The heaviest that there is comes lighter and coarser, or is told; it is never over the weight.
    const heavy = await drawn(id, plateOf({ cover: files.photo, layout: 'label' }))
    expect(heavy.some(({ times, problem }) => times === 1 || problem !== null)).toBe(true)
    for (const { png, bytes, shape } of heavy)
      if (png)
        expect(bytes).toBeLessThanOrEqual(
          SPECIFICATION[shape].find(({ medium }: PartSpecification) => medium === 'picture')?.mostBytes ?? 0
        )
  })

  it('is drawn the same each time, its words in ink on its ground', async () => {
    const { id } = await added(plateOf())
    const plain = plateOf({ layout: 'words', cover: '', sizes: ['300x250'] })
    const [[first], [second]] = [await drawn(id, plain), await drawn(id, plain)]
    expect(first.png).toBe(second.png)
    const { data } = await sharp(Buffer.from(first.png ?? '', 'base64'))
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true })
    const share = (red: number, green: number, blue: number) => {
      let n = 0
      for (let pixel = 0; pixel < data.length; pixel += 3)
        if (Math.abs(data[pixel] - red) + Math.abs(data[pixel + 1] - green) + Math.abs(data[pixel + 2] - blue) < 12) n++
      return n / (data.length / 3)
    }
    expect(share(0x16, 0x32, 0x3c)).toBeGreaterThan(0.6)
    expect(share(255, 255, 255)).toBeGreaterThan(0.02)
    expect(share(0xd9, 0xa4, 0x41)).toBeGreaterThan(0.02)
  })

  it('makes files of the library that slots take, once each, and puts those on a line that it buys', async () => {
    const { id, version } = await added(plateOf({ name: 'Once' }))
    const { lineId } = await readyLine(ask)
    const { body } = await make(id, version, lineId)
    expect([body.made, body.there, body.put, body.replaced]).toEqual([10, 0, 1, 0])
    expect(body.refused.find(({ shape }) => shape === '728x90')?.says).toContain('fits no slot of this line')
    const { ads } = (await ask<LineView>('GET', `/lines/${lineId}`)).body
    expect(ads.at(-1)).toMatchObject({ name: 'Once 300x250.png', shapes: ['300x250'], review: 'draft' })
    const again = (await make(id, version, lineId)).body
    expect([again.made, again.there, again.put]).toEqual([0, 10, 0])
    expect(again.view.made.find(({ shape }) => shape === '300x250')?.lines).toEqual([lineId])
    const file = (await libraryOf(server, ask, ADVERTISER).files()).find(
      ({ name }) => name === 'Once interstitial.png' || name === 'Once 320x480 interstitial.png'
    )
    expect(file).toMatchObject({ madeHow: 'built of “Once”, veil: A stroke a day' })
    // All interstitials of a line without sizes.
    const any = (await ask('POST', `/campaigns/${(await readyLine(ask)).campaignId}/lines`, lineDraft({ targeting: { restrictions: [] } })))
      .body.id
    expect((await make(id, version, any)).body.put).toBe(10)
  })

  it('that says something else takes the places of what it made before, for review', async () => {
    const { id, version } = await added(plateOf({ name: 'Twice', sizes: ['300x250', '320x50'] }))
    const { lineId } = await readyLine(ask)
    await make(id, version, lineId)
    const before = (await ask<LineView>('GET', `/lines/${lineId}`)).body.ads.at(-1)
    const next = plateOf({ name: 'Twice', sizes: ['300x250', '320x50'], headline: 'Ten minutes a day' })
    const { body: saved } = await ask<PlateView>('PUT', `/plates/${id}`, { version, plate: next })
    const { body } = await make(id, saved.version)
    expect([body.made, body.replaced, body.put]).toEqual([2, 2, 0])
    const { ads } = (await ask<LineView>('GET', `/lines/${lineId}`)).body
    expect(ads).toHaveLength(2)
    expect(ads.at(-1)).toMatchObject({ name: 'Twice 300x250.png' })
    expect(ads.at(-1)?.id).not.toBe(before?.id)
  })

  it('is one content to people in every size: that of its parts, not of its files', async () => {
    const plate = plateOf({ name: 'Content', sizes: ['300x250', 'interstitial, upright'] })
    const { id, version } = await added(plate)
    const line = (await ask('POST', `/campaigns/${(await readyLine(ask)).campaignId}/lines`, lineDraft({ targeting: EVERYWHERE }))).body
      .id as number
    await make(id, version, line)
    const { ads, version: now } = (await ask<LineView>('GET', `/lines/${line}`)).body
    expect((await ask('POST', `/lines/${line}/live`, { version: now, token: newToken() })).status).toBe(200)
    const { made } = await publicationRules((await readMarket()).publicationId)
    const contents = ads.map((ad) => made?.find((one) => one.ad === ad.id)?.content)
    expect(contents).toEqual([contentOf({ parts: plateParts(plate) }), contentOf({ parts: plateParts(plate) })])
    expect(contents[0]).not.toEqual(fileContent('0'))
  })
  const EVERYWHERE = { restrictions: [{ dimension: 'where' as const, mode: 'include' as const, values: ['GB', 'FR', 'DE'] }] }

  it('is refused with what is wrong, by the field; nothing of it is made then', async () => {
    const kana = await added(plateOf({ name: 'Signs', headline: 'かな', sizes: ['300x250'] }))
    expect((await drawn(kana.id, kana.plate))[0].problem).toBe('Our letters have no か な.')
    expect((await make(kana.id, kana.version)).body.title).toContain('In no size can it be built')
    const long = await added(plateOf({ name: 'Long', headline: 'a '.repeat(40) }))
    expect((await make(long.id, long.version)).body.issues).toEqual([
      { field: 'plate.headline', message: 'The headline has 79 letters; 60 are allowed.' }
    ])
    expect((await make(long.id, long.version + 1)).status).toBe(409)
    const other = await ask('POST', `/advertisers/1/plates`, { plate: plateOf() })
    expect(other.body.issues).toEqual([{ field: 'plate.cover', message: 'Not a picture of this advertiser.' }])
    expect((await libraryOf(server, ask, ADVERTISER).files()).some(({ name }) => name.startsWith('Signs') || name.startsWith('Long'))).toBe(
      false
    )
    const reader = await server.as(READER)
    expect((await reader('POST', `/plates/${kana.id}/drawn`, { plate: plateOf() })).status).toBe(403)
    expect((await ask('DELETE', `/plates/${kana.id}`)).status).toBe(204)
  })
})
