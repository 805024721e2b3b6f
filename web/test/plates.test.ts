import { flushPromises, mount } from '@vue/test-utils'
import type { Router } from 'vue-router'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { stillPicture, type Plate } from '@tin-harbor/core/creative'
import type { PlateDrawn, PlateView as PlateShown } from '@tin-harbor/core/contract'
import PlateView from '@/views/plates/PlateView.vue'
import { newPlate } from '@/views/plates/use-plate'
import { useManifest } from '@/stores/manifest'
import { file } from './library-file'
import { manifestLine, settle, traderAt, type Request } from './support'

let requests: Request[]
let router: Router
beforeEach(async () => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
  ;({ requests, router } = traderAt({ creatives: '/creatives', plate: '/creatives/plates/:plateId', line: '/campaigns/lines/:lineId' }))
  await router.push({ name: 'plate', params: { plateId: 5 } })
})
afterEach(() => vi.useRealTimers())
const asked = (method: string, path: string) => requests.filter((request) => request.method === method && request.path === path)
const PHOTO = file(2, 'photo.jpg', stillPicture('image/jpeg', 9000, 1600, 1000))
const PLATE: Plate = { ...newPlate('Nightjar', 1, [PHOTO]), headline: 'Look up', sizes: ['300x250', '320x50'] }
const shown = (over: Partial<PlateShown> = {}): PlateShown => ({ id: 5, advertiserId: 1, version: 1, plate: PLATE, made: [], ...over })
const drawn = (over: Partial<PlateDrawn> = {}): PlateDrawn => ({
  shape: '300x250',
  width: 300,
  height: 250,
  times: 2,
  bytes: 20_000,
  png: 'AAAA',
  without: [],
  problem: null,
  ...over
})
const NONE = drawn({ shape: '320x50', width: 320, height: 50, png: null, problem: '“Look up” finds no room in it.' })

async function open(over: Partial<PlateShown> = {}) {
  const reading = useManifest().load()
  const lines = [manifestLine(7, { format: 'display', name: 'Display, DE' }), manifestLine(8, { format: 'native' })]
  const campaigns = [{ id: lines[0].campaignId, advertiserId: 1 }]
  await asked('GET', '/manifest')[0].reply({ body: { advertisers: [{ id: 1, name: 'Nightjar' }], campaigns, lines, possibleSince: 0 } })
  await reading
  const view = mount(PlateView, { global: { plugins: [router] }, attachTo: document.body })
  await asked('GET', '/plates/5')[0].reply({ body: shown(over) })
  await flushPromises()
  await asked('GET', '/advertisers/1/files')[0].reply({ body: [PHOTO] })
  await flushPromises()
  await asked('POST', '/plates/5/drawn')[0].reply({ body: [drawn({ without: ['text'] }), NONE] })
  await flushPromises()
  return view
}

describe('a plate', () => {
  it('begins with the widest picture, in every size', () => {
    const small = file(3, 'small.png', stillPicture('image/png', 9000, 320, 50))
    expect(newPlate('Nightjar Telescopes of the North', 2, [small, PHOTO])).toMatchObject({
      name: 'Plate 2',
      image: `sha256:${PHOTO.sha256}`,
      brand: 'Nightjar Telescopes of t…',
      sizes: expect.arrayContaining(['300x250', 'interstitial, upright']) as string[]
    })
    expect(newPlate('N', 1, []).image).toBe('')
  })

  it('is seen in each size at its pixels, with what had no room, and why one is not built', async () => {
    const view = await open()
    const [picture] = view.findAll('.PlateView-sizes img')
    expect([picture.attributes('width'), picture.attributes('src')]).toEqual(['300', 'data:image/png;base64,AAAA'])
    expect(view.text()).toContain('drawn at 2x, 20 kB, no room for the text')
    expect(view.get('.PlateView-none').text()).toBe('“Look up” finds no room in it.')
    expect(view.get('[data-test=plate-words]').text()).toBe('1 of 2 sizes are built')
  })

  it('is drawn and saved as it is typed; an answer that was overtaken is not shown', async () => {
    const view = await open()
    await view.get('[data-test=plate-headline]').setValue('Look up!!')
    expect(view.text()).toContain('The headline repeats its punctuation.')
    await vi.advanceTimersByTimeAsync(300)
    await view.get('[data-test=plate-layout]').setValue('veil')
    await vi.advanceTimersByTimeAsync(300)
    const [, first, second] = asked('POST', '/plates/5/drawn')
    expect([first.body.plate.layout, second.body.plate.layout]).toEqual(['shelf', 'veil'])
    await second.reply({ body: [drawn({ png: 'BBBB' })] })
    await first.reply({ body: [drawn({ png: 'CCCC' })] })
    await flushPromises()
    expect(view.get('.PlateView-sizes img').attributes('src')).toContain('BBBB')
    await vi.advanceTimersByTimeAsync(600)
    await settle()
    const saved = asked('PUT', '/plates/5').at(-1)
    expect(saved?.body.plate).toMatchObject({ headline: 'Look up!!', layout: 'veil' })
    await saved?.reply({ status: 409, body: { code: 'stale', title: 'Changed', details: {} } })
    await flushPromises()
    expect(view.get('[role=alert]').text()).toContain('Somebody else changed the plate')
  })

  it('keeps a point of its pictures, by the mouse or by arrow keys', async () => {
    const view = await open()
    const point = view.get('.PlateParts-focal')
    await point.trigger('keydown', { key: 'ArrowRight' })
    await point.trigger('keydown', { key: 'ArrowUp' })
    expect(point.attributes('aria-label')).toContain('55 % from the left, 45 % from above')
    for (let n = 0; n < 12; n++) await point.trigger('keydown', { key: 'ArrowUp' })
    expect(point.attributes('aria-label')).toContain('0 % from above')
  })

  it('makes its pictures on a line, in the places of those of before, and says which none was put there', async () => {
    const view = await open({ made: [{ file: 9, name: 'Old', shape: '300x250', lines: [7] }] })
    expect(view.text()).toContain('in the place of those of before, on L-7')
    await view.get('[data-test=plate-line]').setValue('7')
    await view.get('[data-test=make-plate]').trigger('click')
    const [asks] = asked('POST', '/plates/5/make')
    expect(asks.body).toEqual({ version: 1, line: 7, replaces: true })
    const refused = [{ shape: '320x50', says: 'It fits no slot of this line.' }]
    await asks.reply({ body: { made: 1, there: 0, put: 0, replaced: 1, refused, view: shown() } })
    await flushPromises()
    expect(view.get('[data-test=plate-made]').text()).toContain('1 picture is made. 1 picture of before gave way. 0 put on Display, DE.')
    expect(view.text()).toContain('320x50: It fits no slot of this line.')
  })
})
