import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  SOURCE_NAMES,
  SPECIFICATION,
  TEXTS,
  cropFor,
  cropWithin,
  creativeSchema,
  cutText,
  densityFor,
  fileVerdict,
  filesNamed,
  filmFitSchema,
  findingsOf,
  fitFor,
  fitWords,
  frameIn,
  fittingShapes,
  interstitialOf,
  letters,
  partProblem,
  pictureProblem,
  stillPicture,
  textFindings,
  takenBy,
  takenByDeal,
  verdictsOf,
  type FileFacts,
  type FilmFit
} from '../src/creative/index.js'
import { parseInput } from '../src/input/index.js'
import { SHAPES } from '../src/taxonomy/index.js'

const MB = 1024 * 1024
const film = (over: Partial<FileFacts> = {}): FileFacts => ({
  medium: 'film',
  type: 'video/mp4',
  bytes: 6 * MB,
  width: 1920,
  height: 1080,
  turned: 0,
  seconds: 30,
  loops: null,
  seen: { codec: 'h264', kbps: 1500, framesASecond: 25 },
  heard: { codec: 'aac', kbps: 128, channels: 2, hertz: 48_000, lufs: -18, isSilent: false },
  hasPlace: false,
  ...over
})
const told = (facts: FileFacts) => fileVerdict(facts).findings.map(({ rule, is, allowed }) => [rule, is, allowed])
const bySource = (facts: FileFacts) => fileVerdict(facts).bySource.map(({ is, allowed, sources }) => [is, allowed, sources.join()])

describe('a film', () => {
  it('that is as it should be is taken by every player, and by each source up to what that one takes', () => {
    const { takes, findings } = fileVerdict(film())
    expect(findings).toEqual([])
    expect(takes.map(({ shape }) => shape)).toEqual(['small player', 'medium player', 'large player'])
    expect(bySource(film())).toEqual([
      ['6 MB', 'at most 4 MB', 'Pennant,Sluice'],
      ['30 s', '6 to 15 s', 'Sluice']
    ])
  })

  it('of 46 s is taken by the slots, and named the sources that take at most 30', () => {
    const { takes, findings } = fileVerdict(film({ seconds: 46 }))
    expect(findings).toEqual([])
    expect(takes).toHaveLength(3)
    expect(bySource(film({ seconds: 46 }))).toEqual(
      expect.arrayContaining([
        ['46 s', '6 to 30 s', 'Tidewater,Northgate,Pennant'],
        ['46 s', '6 to 15 s', 'Sluice']
      ])
    )
    expect(told(film({ seconds: 75 }))).toEqual([['length', '75 s', '6 to 60 s']])
  })

  it('says what is there, what is allowed, and what could be made of it', () => {
    expect(told(film({ heard: null }))).toEqual([['sound', 'no sound track', 'a sound track']])
    expect(told(film({ bytes: 31 * MB }))).toEqual([
      ['rate', '8668 kbit a second', '100 to 8000 kbit a second'],
      ['weight', '31 MB', 'at most 10 MB']
    ])
    expect(told(film({ seconds: null }))).toEqual([['length', 'no length in the file', '6 to 60 s']])
    expect(told(film({ seen: { codec: 'hevc', kbps: 1, framesASecond: 25 } }))).toEqual([['codec', 'H.265', 'H.264, VP8 or VP9']])
    expect(told(film({ type: 'video/quicktime' }))).toEqual([['type', 'MOV', 'MP4 or WebM']])
  })

  it('that stands upright, or is small, is still taken by the slots that take it', () => {
    const upright = fileVerdict(film({ width: 1080, height: 1920 }))
    expect(upright.takes.map(({ shape }) => shape)).toEqual(['small player', 'medium player'])
    expect(upright.findings).toMatchObject([
      { rule: 'size' },
      { rule: 'ratio', is: '1080x1920', allowed: '16:9', shapes: ['large player'] }
    ])
    const small = fileVerdict(film({ width: 640, height: 360 }))
    expect(small.takes.map(({ shape }) => shape)).toEqual(['small player', 'medium player'])
    expect(small.findings).toMatchObject([{ rule: 'size', is: '640x360', allowed: 'at least 1280x720' }])
  })

  it('is levelled when it is too loud, and left as it is when it is silent', () => {
    const heard = { codec: 'aac', kbps: 128, channels: 2, hertz: 48_000, isSilent: false }
    expect(told(film({ heard: { ...heard, lufs: -9.04 } }))).toEqual([['loudness', '-9 LUFS', '-26 to -14 LUFS']])
    expect(told(film({ heard: { ...heard, lufs: null, isSilent: true } }))).toEqual([])
  })
})

describe('what would make a film fit', () => {
  /** What the fit promises of a film that is made by it. */
  const madeBy = (facts: FileFacts, { from, to, frame, mostBytes, level, silence }: FilmFit): FileFacts => ({
    ...facts,
    type: 'video/mp4',
    bytes: Math.min(facts.bytes, mostBytes),
    width: frame?.width ?? facts.width,
    height: frame?.height ?? facts.height,
    seconds: to - from,
    seen: { codec: 'h264', kbps: null, framesASecond: 25 },
    heard: silence
      ? { codec: 'aac', kbps: 2, channels: 2, hertz: 48_000, lufs: null, isSilent: true }
      : facts.heard && { ...facts.heard, codec: 'aac', lufs: level ?? facts.heard.lufs }
  })

  it('is taken by the slot, and by the source that it is for', () => {
    const lufs = fc.option(fc.double({ min: -60, max: 0, noNaN: true }), { nil: null })
    fc.assert(
      fc.property(
        fc.record({ width: fc.integer({ min: 160, max: 4096 }), height: fc.integer({ min: 120, max: 4096 }) }),
        fc.integer({ min: 2 * MB, max: 300 * MB }),
        fc.double({ min: 7, max: 400, noNaN: true }),
        fc.option(lufs, { nil: undefined }),
        fc.constantFrom(...(['small player', 'medium player', 'large player'] as const)),
        fc.constantFrom(null, ...SOURCE_NAMES),
        (size, bytes, seconds, loud, shape, source) => {
          const heard =
            loud === undefined ? null : { codec: 'aac', kbps: 128, channels: 2, hertz: 48_000, lufs: loud, isSilent: loud === null }
          const facts = film({ ...size, bytes, seconds, heard })
          const fit = fitFor(facts, shape, source) as FilmFit
          const made = madeBy(facts, fit)
          // How fast its bytes come is the encoder's.
          const wrong = findingsOf(made, takenBy(shape, source)[0]).filter(({ rule }) => rule !== 'rate')
          expect(wrong).toEqual([])
          expect(parseInput(filmFitSchema, fit)).toEqual(fit)
        }
      )
    )
  })

  it('leaves what fits as it is, and says in one sentence what it does', () => {
    const whole = fitFor(film(), 'large player') as FilmFit
    expect([whole.frame, whole.level, whole.silence, fitWords(film(), whole)]).toEqual([null, null, false, 'written anew'])
    const facts = film({ width: 1080, height: 1920, seconds: 46, bytes: 60 * MB, heard: null })
    expect(fitWords(facts, { ...(fitFor(facts, 'large player', 'Tidewater') as FilmFit), from: 4.5, to: 34.5 })).toBe(
      'cut to 0:04.5-0:34.5, padded to 1920x1080, brought under 10 MB, given a silent track'
    )
    expect(fitFor(stillPicture('image/png', 1, 100, 100), 'large player')).toBeNull()
    expect(fitFor(film({ seconds: null }), 'large player')).toBeNull()
  })
})

describe('a picture', () => {
  it('fills a slot of its size, or of a half or a third of it', () => {
    for (const times of [1, 2, 3])
      expect(fileVerdict(stillPicture('image/png', 90_000, 300 * times, 250 * times)).takes.map(({ shape }) => shape)).toContain('300x250')
    const odd = verdictsOf(stillPicture('image/png', 90_000, 301, 250), ['300x250'])
    expect(odd[0].findings).toMatchObject([{ rule: 'size', is: '301x250', allowed: '300x250, 600x500 or 900x750' }])
  })

  it('that moves for longer than it may, or again and again, is told so; one that stands for a card may not move at all', () => {
    const moving = (seconds: number, loops: number) => ({ ...stillPicture('image/gif', 90_000, 300, 250), seconds, loops })
    const findings = (facts: FileFacts) => verdictsOf(facts, ['300x250'])[0].findings.map(({ is }) => is)
    expect([findings(moving(10, 3)), findings(moving(10, 4)), findings(moving(2, 0))]).toEqual([
      [],
      ['moves for 40 s'],
      ['2 s, again and again']
    ])
    expect(verdictsOf({ ...moving(1, 1), width: 1200, height: 628 }, ['native card'])[0].findings.map(({ rule }) => rule)).toEqual([
      'type',
      'moves'
    ])
  })

  it('is no film', () => {
    expect(findingsOf(stillPicture('image/png', 1, 1920, 1080), SPECIFICATION['large player'][0])).toMatchObject([
      { rule: 'medium', is: 'a picture', allowed: 'a film' }
    ])
  })
})

describe('the specification', () => {
  it('of a source is never wider than that of the slot', () => {
    for (const shape of SHAPES)
      for (const source of SOURCE_NAMES)
        takenBy(shape, source).forEach((one, n) => {
          const whole = SPECIFICATION[shape][n] as typeof one
          expect(one.mostBytes).toBeLessThanOrEqual(whole.mostBytes)
          if (one.seconds && whole.seconds) {
            expect(one.seconds.most).toBeLessThanOrEqual(whole.seconds.most)
            expect(one.seconds.least).toBe(whole.seconds.least)
          }
        })
  })

  it('takes every file that one of its verdicts takes, and none that it finds something in', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 100, max: 4000 }),
        fc.integer({ min: 100, max: 2500 }),
        fc.integer({ min: 1000, max: 20 * MB }),
        fc.double({ min: 1, max: 100, noNaN: true }),
        (width, height, bytes, seconds) => {
          const facts = film({ width, height, bytes, seconds })
          const { takes, findings } = fileVerdict(facts)
          for (const { shape } of takes) expect(findings.filter((one) => one.shapes.includes(shape))).toEqual([])
          expect(takes.length + new Set(findings.flatMap((one) => one.shapes)).size).toBe(3)
        }
      )
    )
  })
})

describe('letters', () => {
  it('are counted as they are seen', () => {
    expect([letters('Zażółć'), letters('🇵🇹'), letters('👨‍👩‍👧‍👦 now'), letters('e\u0301')]).toEqual([6, 1, 5, 1])
  })

  it('are cut between what is seen as one, never longer than asked', () => {
    expect(cutText('A 👨‍👩‍👧‍👦 of four', 4)).toBe('A 👨‍👩‍👧‍👦…')
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), fc.integer({ min: 2, max: 40 }), (text, most) => {
        expect(letters(cutText(text, most))).toBeLessThanOrEqual(most)
        if (letters(text) <= most) expect(cutText(text, most)).toBe(text)
      })
    )
  })
})

describe('a crop', () => {
  const share = fc.double({ min: 0, max: 1, noNaN: true })
  const pixels = fc.integer({ min: 50, max: 6000 })
  it('lies in the picture, keeps its ratio, is as large as it can be, and holds the point that matters', () => {
    fc.assert(
      fc.property(pixels, pixels, fc.double({ min: 0.3, max: 3, noNaN: true }), share, share, (width, height, ratio, x, y) => {
        const crop = cropFor(width, height, ratio, { x, y })
        expect(crop.left).toBeGreaterThanOrEqual(0)
        expect(crop.top).toBeGreaterThanOrEqual(0)
        expect(crop.left + crop.width).toBeLessThanOrEqual(width)
        expect(crop.top + crop.height).toBeLessThanOrEqual(height)
        expect(crop.width === width || crop.height === height || Math.abs(crop.width - height * ratio) <= 1).toBe(true)
        expect(Math.abs(crop.width - crop.height * ratio)).toBeLessThanOrEqual(1 + ratio)
        expect(x * width).toBeGreaterThanOrEqual(crop.left - 1)
        expect(x * width).toBeLessThanOrEqual(crop.left + crop.width + 1)
        expect(y * height).toBeGreaterThanOrEqual(crop.top - 1)
        expect(y * height).toBeLessThanOrEqual(crop.top + crop.height + 1)
      })
    )
  })

  it('is given at the highest density that needs no enlarging', () => {
    const slot = { width: 300, height: 250 }
    const density = (width: number, height: number) => densityFor({ width, height }, slot, [1, 2, 3])
    expect([density(299, 250), density(300, 250), density(650, 520), density(900, 750)]).toEqual([1, 1, 2, 3])
  })
})

describe('an ad of parts', () => {
  const native = {
    headline: 'Write Japanese by hand',
    longHeadline: 'Write Japanese by hand',
    text: 'Ten minutes a day.',
    brand: 'Inkwell Kana',
    button: 'Start',
    icon: `sha256:${'a'.repeat(64)}`,
    picture: 'https://inkwell.example/stroke.jpg'
  }
  const icon = stillPicture('image/png', 5000, 256, 256)

  it('has texts no longer than its slot shows, counted as they are seen; what was written before is told', () => {
    const flags = '🇵🇹'.repeat(25)
    expect(() => parseInput(creativeSchema, { name: 'x', kind: 'native', parts: { ...native, headline: flags } }, '')).not.toThrow()
    expect(() => parseInput(creativeSchema, { name: 'x', kind: 'native', parts: { ...native, headline: `${flags}!` } }, '')).toThrow(
      'at most 25 letters'
    )
    expect(textFindings({ kind: 'native', parts: { ...native, headline: `${flags}!`, text: 'x'.repeat(90) } })).toEqual([
      'The short headline has 26 letters; 25 are allowed.'
    ])
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 120 }), (brand) => {
        const tells = textFindings({ kind: 'native', parts: { brand } }).length > 0
        expect(tells).toBe(letters(brand) > TEXTS.native.brand.most)
      })
    )
  })

  it('names files of the library by what they hold, each held against its own part', () => {
    const ad = { kind: 'native', parts: native } as const
    expect(filesNamed(ad)).toEqual([{ part: 'icon', sha256: 'a'.repeat(64) }])
    expect(partProblem(ad, 'icon', icon)).toBeNull()
    expect(partProblem(ad, 'picture', icon)).toContain('allowed is at least 600x314')
    const banner = { entry: 'index.html', files: 1, unpacked: 900, hasClick: true, calls: [] }
    const zip = { ...stillPicture('application/zip', 900, 300, 250), medium: 'banner' as const, banner }
    const html5 = { kind: 'html5', parts: { size: '300x250', file: 'x' } } as const
    expect([partProblem(html5, 'file', zip), partProblem({ ...html5, kind: 'picture' }, 'file', zip)]).toEqual([null, expect.any(String)])
  })

  it('is a banner of any slot that takes one, interstitials too; deals never take more than the slot', () => {
    const banner = { entry: 'index.html', files: 1, unpacked: 900, hasClick: true, calls: [] }
    const zip = { ...stillPicture('application/zip', 900, 480, 320), medium: 'banner' as const, banner }
    const takes = fileVerdict(zip).takes.map(({ shape }) => shape)
    expect(takes).toEqual(['interstitial, wide'])
    expect(pictureProblem(zip, [])).toBeNull()
    expect(pictureProblem(zip, ['300x250'])).toContain('480x320 fits no slot of this line')
    const draft = parseInput(creativeSchema, { name: 'x', kind: 'html5', parts: { size: '480x320', file: native.icon } }, '')
    expect([fittingShapes(draft), partProblem(draft, 'file', zip)]).toEqual([takes, null])
    for (const shape of SHAPES)
      takenByDeal(shape, 'fixed').forEach((one, n) => {
        const whole = takenBy(shape, null)[n]
        expect(one.mostBytes).toBeLessThanOrEqual(whole.mostBytes)
        expect(one.seconds?.most ?? 0).toBeLessThanOrEqual(whole.seconds?.most ?? 0)
      })
    const long = { kind: 'video', parts: { file: native.icon } } as const
    expect([partProblem(long, 'file', film({ seconds: 46 })), partProblem(long, 'file', film({ seconds: 46 }), 'fixed')]).toEqual([
      null,
      'It is 46 s; allowed is 6 to 30 s.'
    ])
  })

  it('fills an interstitial where it has its pixels, or two or three times those', () => {
    const filled = [320, 640, 960, 321].map((width) => interstitialOf(stillPicture('image/png', 1, width, (width / 320) * 480)))
    expect(filled).toEqual(['interstitial, upright', 'interstitial, upright', 'interstitial, upright', null])
  })
})

describe('a frame and a part by hand', () => {
  it('has its ratio, is no larger than the film fills, and is taken by the slot', () => {
    const ratios = fc.constantFrom(16 / 9, 1, 9 / 16)
    fc.assert(
      fc.property(fc.integer({ min: 360, max: 2160 }), fc.integer({ min: 360, max: 2160 }), ratios, (width, height, ratio) => {
        const facts = film({ width, height })
        const [slot] = takenBy('medium player', null)
        const frame = frameIn(facts, ratio, slot.least)
        const made = { ...facts, width: frame.width, height: frame.height }
        expect(findingsOf(made, slot).filter(({ rule }) => rule === 'ratio' || rule === 'size')).toEqual([])
        // Where the slot takes one that the film fills, nothing is enlarged.
        const free = frameIn(facts, ratio, null)
        expect(free.height <= cropFor(width, height, ratio, free.focal).height || Math.min(free.width, free.height) === 360).toBe(true)
      })
    )
    expect(frameIn(film(), 9 / 16, null)).toMatchObject({ width: 480, height: 854, how: 'crop' })
    expect(frameIn(film({ width: 2160, height: 3840 }), 9 / 16, null)).toMatchObject({ width: 1080, height: 1920 })
    expect(frameIn(film({ width: 1280, height: 720 }), 1, null)).toMatchObject({ width: 720, height: 720 })
  })

  it('lies in the picture and in what was chosen, in the ratio of the slot', () => {
    const share = fc.double({ min: 0, max: 1, noNaN: true })
    const chosen = fc.record({ left: share, top: share, width: share, height: share })
    fc.assert(
      fc.property(chosen, fc.constantFrom(1, 6 / 5, 728 / 90, 0.5), (part, ratio) => {
        const [width, height] = [1600, 1000]
        const crop = cropWithin(width, height, ratio, part)
        expect(crop.left).toBeGreaterThanOrEqual(0)
        expect(crop.top).toBeGreaterThanOrEqual(0)
        expect(crop.left + crop.width).toBeLessThanOrEqual(width)
        expect(crop.top + crop.height).toBeLessThanOrEqual(height)
        expect(crop.width).toBeGreaterThan(0)
        if (crop.width > 40 && crop.height > 40) expect(Math.abs(crop.width / crop.height / ratio - 1)).toBeLessThan(0.06)
      })
    )
  })
})
