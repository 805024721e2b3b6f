import { flushPromises } from '@vue/test-utils'
import { ElSelect } from 'element-plus'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { shallowRef } from 'vue'
import type { AdView } from '@tin-harbor/core/contract'
import PhraseChooser from '@/parts/PhraseChooser.vue'
import LineCreatives from '@/views/line/LineCreatives.vue'
import { alerts, mountEditing } from './editing'
import { draftOf, settle, traderAt, viewOf, type Request } from './support'

vi.mock('@/theme/charts', () => ({ COLOURS: {} }))

let requests: Request[]
beforeEach(() => {
  ;({ requests } = traderAt({ creatives: '/creatives' }))
})
const asked = (method: string, path: string) => requests.filter((request) => request.method === method && request.path.startsWith(path))

describe('creatives of a line', () => {
  const ad = (id: number, over: Partial<AdView> = {}): AdView =>
    ({
      id,
      creativeId: id + 100,
      madeCreativeId: null,
      name: `ad ${id}.png`,
      size: '300x250',
      shapes: ['300x250'],
      width: 300,
      height: 250,
      bytes: 20_000,
      type: 'image/png',
      review: 'approved',
      ...over
    }) as AdView
  const held = shallowRef(draftOf())
  function open(over: Parameters<typeof viewOf>[1], draft = draftOf(), disabled = false, problems: Record<string, string> = {}) {
    held.value = draft
    const line = viewOf(draft, over)
    return mountEditing(LineCreatives, { line, disabled }, { draft: held, disabled, problems })
  }
  const file = (name: string, size: number) => Object.defineProperty(new File(['x'], name, { type: 'image/png' }), 'size', { value: size })
  async function drop(view: ReturnType<typeof open>, files: File[]) {
    const event = new Event('drop', { bubbles: true, cancelable: true })
    Object.defineProperty(event, 'dataTransfer', { value: { files, items: files.map(({ type }) => ({ kind: 'file', type })) } })
    view.get('.LineCreatives').element.dispatchEvent(event)
    await settle()
  }

  it('are uploaded one after the other; each that is refused is named with the reason', async () => {
    const view = open({ ads: [] })
    await asked('GET', '/lines/7/made-creatives')[0].reply({ body: [] })
    await drop(view, [file('huge.png', 80 * 1024 * 1024), file('odd.png', 900), file('good.png', 900)])
    expect(alerts(view)).toEqual([expect.stringMatching(/^huge\.png was refused\. The file has 80 MB; at most/)])
    await asked('POST', '/lines/7/creatives')[0].reply({
      status: 422,
      body: { code: 'invalid', title: 'No.', issues: [{ field: 'file', message: 'It is 301x250; 300x250 would do.' }] }
    })
    await flushPromises()
    await asked('POST', '/lines/7/creatives')[1].reply({ body: viewOf(draftOf(), { ads: [ad(1)] }) })
    await flushPromises()
    expect(alerts(view)[1]).toBe('odd.png was refused. It is 301x250; 300x250 would do.')
    expect((view.getComponent(LineCreatives).emitted('changed') as [{ ads: AdView[] }][]).map(([change]) => change.ads.length)).toEqual([1])
  })

  it('are taken off, and those of parts are offered until they are on', async () => {
    const view = open({ ads: [ad(1), ad(2, { creativeId: null, madeCreativeId: 41, name: 'Story' })] }, draftOf({ format: 'native' }))
    await asked('GET', '/lines/7/made-creatives')[0].reply({
      body: [
        { id: 41, name: 'Story', kind: 'native' },
        { id: 42, name: 'Tale', kind: 'native' }
      ]
    })
    await flushPromises()
    const offered = view.findAllComponents(ElSelect)
    expect(offered).toHaveLength(1)
    offered[0].vm.$emit('change', 42)
    expect(asked('POST', '/lines/7/ads')[0].body).toEqual({ creatives: [42] })
    await asked('POST', '/lines/7/ads')[0].reply({ status: 409, body: { code: 'conflict', title: 'It was withdrawn.' } })
    await flushPromises()
    expect(alerts(view)).toEqual(['Tale was refused. It was withdrawn.'])
    await view.get('[aria-label="Take ad 1.png off the line"]').trigger('click')
    expect(asked('POST', '/lines/7/ads/removed').map(({ body }) => body)).toEqual([{ ads: [1] }])
  })

  it('of a line that cannot be edited are only shown', async () => {
    const view = open({ ads: [ad(1)] }, draftOf(), true)
    await drop(view, [file('good.png', 900)])
    expect(view.findAll('input:not([disabled])').map((input) => input.attributes('aria-label'))).toEqual([])
    expect(asked('POST', '/lines')).toEqual([])
  })

  const standing = (id: number, over: object = {}) => ({
    ad: id,
    impressions: 1000 * id,
    events: id,
    rate: 0.001,
    range: { low: 0.0004, high: 0.002 },
    best: 0.5,
    share: 0.5,
    ...over
  })

  it('say what came of each, how often it is drawn, and which slots go without', async () => {
    const view = open({ ads: [ad(1), ad(2)] })
    await asked('GET', '/lines/7/ads/standing')[0].reply({
      body: { counts: 'visits', ads: [standing(1, { best: 0.9, share: 0.2 }), standing(2)] }
    })
    await flushPromises()
    expect(view.findAll('.LineAds tbody tr')[0].text()).toContain('1,000')
    expect(view.findAll('.LineAds tbody tr')[0].text()).toContain('90 %')
    expect(view.findAll('.LineAds tbody tr')[0].text()).toContain('20 %')
    expect(view.get('[data-test=bare]').text()).toMatch(/Without an ad, so that nothing is bought there: .* and \d+ more\.$/)
  })

  it('have a weight, a bid, caps, places and a link of their own in the draft; many are turned off at once', async () => {
    const view = open({ ads: [ad(1), ad(2), ad(3)] }, draftOf(), false, { 'ads[0].landing': 'No address.' })
    await view.get('[aria-label="Weight of ad 1.png"]').setValue('4')
    expect(held.value.ads).toEqual([{ ad: 1, weight: 4 }])
    await view.get('[aria-label="Weight of ad 1.png"]').setValue('0')
    expect(held.value.ads).toEqual([{ ad: 1, weight: 4 }])
    await view.findAll('.LineAds-own')[0].trigger('click')
    await view.get('#ad-bid').setValue('2.40')
    await view.get('[data-test=add-cap]').trigger('click')
    await view.get('#ad-landing').setValue('https://two.example')
    expect(held.value.ads).toEqual([
      { ad: 1, weight: 4, bidMicros: 2_400_000, caps: [{ times: 3, hours: 24 }], landing: 'https://two.example' }
    ])
    expect(alerts(view)).toContain('No address.')
    await view.get('[data-narrow=device]').trigger('click')
    view.getComponent(PhraseChooser).vm.$emit('change', {
      ...view.getComponent(PhraseChooser).props('sentence'),
      targeting: { restrictions: [{ dimension: 'device', mode: 'include', values: ['phone'] }, ...held.value.targeting.restrictions] }
    })
    expect(held.value.ads?.[0].targeting).toEqual({ restrictions: [{ dimension: 'device', mode: 'include', values: ['phone'] }] })
    await view.get('[aria-label="Choose ad 1.png"]').trigger('click')
    await view.get('[aria-label="Choose ad 3.png"]').trigger('click', { shiftKey: true })
    await view.findAll('.LineAds-many button')[1].trigger('click')
    expect(held.value.ads?.map(({ ad, off }) => [ad, off])).toEqual([
      [1, true],
      [2, true],
      [3, true]
    ])
    await view.get('.LineAds-many input').setValue('7')
    expect(held.value.ads?.map(({ weight }) => weight)).toEqual([7, 7, 7])
    await view.findAll('.LineAds-many button')[2].trigger('click')
    expect(asked('POST', '/lines/7/ads/removed').map(({ body }) => body)).toEqual([{ ads: [1, 2, 3] }])
  })
})
