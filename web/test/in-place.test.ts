import { flushPromises, mount } from '@vue/test-utils'
import type { Router } from 'vue-router'
import { beforeEach, describe, expect, it } from 'vitest'
import type { AdPreview, LinePreview } from '@tin-harbor/core/contract'
import AdSight from '@/views/in-place/AdSight.vue'
import FilmSight from '@/views/in-place/FilmSight.vue'
import InPlaceStage from '@/views/in-place/InPlaceStage.vue'
import InPlaceView from '@/views/in-place/InPlaceView.vue'
import ShownView from '@/views/in-place/ShownView.vue'
import { useSession } from '@/stores/session'
import { settle, traderAt, type Request } from './support'

let requests: Request[]
let router: Router
beforeEach(() => {
  ;({ requests, router } = traderAt({
    line: '/campaigns/lines/:lineId',
    'in-place': '/campaigns/lines/:lineId/in-place',
    shown: '/shown/:link'
  }))
})
const asked = (method: string, path: string) => requests.filter((request) => request.method === method && request.path.startsWith(path))
const file = (part: string, sha256: string, over: object = {}) => ({
  part,
  sha256,
  medium: 'picture' as const,
  altText: `alt ${part}`,
  width: 300,
  height: 250,
  seconds: null,
  hasProxy: false,
  ...over
})
const ad = (id: number, over: Partial<AdPreview> = {}): AdPreview => ({
  id,
  name: `ad ${id}`,
  kind: 'picture',
  shapes: ['300x250'],
  review: 'cleared',
  isOff: false,
  landing: 'https://shop.example/page',
  click: `/c/${id}`,
  said: [],
  files: [file('file', `h${id}`)],
  runs: null,
  ...over
})
const addressOf = (sha256: string, playable: boolean) => `/c/${sha256}${playable ? '?p' : ''}`
const sight = (one: AdPreview, shape: string) => mount(AdSight, { props: { ad: one, shape: shape as never, addressOf } })
const native = (headline: string) =>
  ad(5, {
    kind: 'native',
    shapes: ['native card', 'native row'],
    said: Object.entries({ headline, longHeadline: 'L'.repeat(120), text: 'Text', brand: 'Brand', button: 'Go' }).map(([part, value]) => ({
      part,
      value
    })),
    files: [file('picture', 'pic'), file('icon', 'ico')]
  })

describe('an ad as a slot shows it', () => {
  it('is the served file at the pixels of the slot, and runs in a frame where it is somebody else’s', () => {
    const view = sight(ad(1), '300x250')
    expect([view.get('img').attributes('src'), view.get('img').attributes('width'), view.attributes('style')]).toEqual([
      '/c/h1',
      '300',
      'width: 300px; height: 250px;'
    ])
    const tag = sight(ad(2, { kind: 'markup', runs: '/sandbox/x/tag.html', files: [] }), '300x250').get('iframe')
    expect([tag.attributes('src'), tag.attributes('sandbox')]).toEqual(['/sandbox/x/tag.html', 'allow-scripts'])
    expect(sight(ad(3, { files: [] }), '300x250').text()).toContain('not in the library')
    expect(
      sight(ad(4, { kind: 'pop page', files: [], said: [{ part: 'link', value: 'https://pop.example/x' }] }), 'whole page').text()
    ).toContain('pop.example')
  })

  it('has its texts cut where the slot cuts them', () => {
    const card = sight(native('Short'), 'native card')
    expect(card.get('b').text()).toMatch(/^L{89}…$/)
    const row = sight(native('A headline longer than twenty-five'), 'native row')
    expect(row.get('b').text()).toBe('A headline longer than t…')
    expect(row.get('b').text()).toHaveLength(25)
  })

  it('of film is played with its progress, and skipped once it may be', async () => {
    const view = mount(FilmSight, { props: { address: '/c/film', name: 'Film', skipAfter: 5 } })
    const media = view.get('video').element
    const skip = view.get('.FilmSight-skip')
    expect([skip.text(), skip.attributes('disabled')]).toEqual(['Skip in 5', ''])
    Object.defineProperty(media, 'currentTime', { value: 6, configurable: true })
    Object.defineProperty(media, 'duration', { value: 30 })
    await view.get('video').trigger('timeupdate')
    expect([skip.text(), view.text()]).toEqual(['Skip', expect.stringContaining('0:06 / 0:30')])
    await skip.trigger('click')
    expect(view.text()).toContain('The programme goes on here.')
  })
})

describe('ads in place', () => {
  const preview: LinePreview = { advertiser: 'Nightjar', format: 'display', ads: [ad(1), ad(2, { shapes: ['300x250', '728x90'] })] }

  it('are gone through by keys: places sideways, ads up and down; an ad stays where it fits the next slot', async () => {
    const view = mount(InPlaceStage, { props: { preview, addressOf, vastOf: (id: number) => `/vast/${id}` } })
    const said = () => view.get('[data-test=in-place]').text().replace(/\s+/g, ' ')
    const key = (name: string) => view.trigger('keydown', { key: name })
    expect(view.findAll('nav button').map((one) => one.text())).toEqual([
      '300x250 in an article',
      '300x250 in an app',
      '728x90 in an article'
    ])
    expect(said()).toContain('ad 1; 300x250 at 300 by 250 pixels, 1 of 2.')
    await key('ArrowDown')
    expect(said()).toContain('ad 2; 300x250')
    await key('ArrowRight')
    await key('ArrowRight')
    expect(said()).toContain('ad 2; 728x90 at 728 by 90 pixels, 1 of 1.')
    await key('ArrowRight')
    expect(said()).toContain('ad 2; 300x250 at 300 by 250 pixels, 2 of 2.')
  })

  it('are shown to a client by a link, which is told once and closed again', async () => {
    await router.push({ name: 'in-place', params: { lineId: 7 } })
    const view = mount(InPlaceView, { global: { plugins: [router] } })
    await asked('GET', '/lines/7/preview')[0].reply({ body: preview })
    await asked('GET', '/lines/7/preview-links')[0].reply({ body: [] })
    await flushPromises()
    expect(view.get('img').attributes('src')).toBe('/api/lines/7/content?sha256=h1')
    await view.get('form').trigger('submit')
    await settle()
    expect(asked('POST', '/lines/7/preview-links')[0].body).toEqual({ days: 14 })
    const links = [{ id: 3, until: Date.UTC(2026, 2, 20), madeBy: 'Inês' }]
    await asked('POST', '/lines/7/preview-links')[0].reply({ body: { path: '/shown/abc', links } })
    await flushPromises()
    expect(view.get('[data-test=link-made] a').attributes('href')).toMatch(/\/shown\/abc$/)
    expect(view.get('[data-test=links]').text()).toContain('until 20 March 2026, by Inês')
    await view.get('[data-test=links] button').trigger('click')
    await asked('DELETE', '/preview-links/3')[0].reply({ status: 204, body: undefined })
    await flushPromises()
    expect(view.find('[data-test=links]').exists()).toBe(false)
  })

  it('are seen by whoever has the link, and not when it is over', async () => {
    useSession().user = null
    await router.push({ name: 'shown', params: { link: 'secret' } })
    const view = mount(ShownView, { global: { plugins: [router] } })
    await asked('GET', '/shown?link=secret')[0].reply({ body: preview })
    await flushPromises()
    expect([view.get('h1').text(), view.get('img').attributes('src')]).toEqual([
      'Ads of Nightjar',
      '/api/shown/content?link=secret&sha256=h1'
    ])
    const late = mount(ShownView, { global: { plugins: [router] } })
    await asked('GET', '/shown?link=secret')[1].reply({ status: 404, body: { code: 'closed', title: 'This link does not open.' } })
    await flushPromises()
    expect(late.get('[role=alert]').text()).toBe('This link does not open.')
  })
})
