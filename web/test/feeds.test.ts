import { flushPromises, mount } from '@vue/test-utils'
import type { Router } from 'vue-router'
import { beforeEach, describe, expect, it } from 'vitest'
import { stillPicture, type Feed } from '@tin-harbor/core/creative'
import type { FeedItemView, FeedView as FeedShown } from '@tin-harbor/core/contract'
import FeedForm from '@/views/creatives/FeedForm.vue'
import FeedView from '@/views/feeds/FeedView.vue'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import { file } from './library-file'
import { manifestLine, traderAt, type Request } from './support'

let requests: Request[]
let router: Router
beforeEach(async () => {
  ;({ requests, router } = traderAt({ creatives: '/creatives', feed: '/creatives/feeds/:feedId', line: '/campaigns/lines/:lineId' }))
  await router.push({ name: 'feed', params: { feedId: 5 } })
})
const asked = (method: string, path: string) => requests.filter((request) => request.method === method && request.path === path)
const ICON = file(4, 'icon.png', stillPicture('image/png', 9000, 200, 200))
const FEED: Feed = {
  name: 'Bikes',
  address: 'https://shop.example/bikes.rss',
  fields: { key: 'guid', title: 'title', text: 'description', link: 'link', picture: 'image', price: 'price', stock: 'stock' },
  template: { headline: '{title}', longHeadline: '{title} {colour}', text: '{text}', button: 'See it', brand: 'Ostler', icon: '' },
  which: { words: '', least: null, most: null },
  changed: 'goes on'
}
const shown = (over: Partial<FeedShown> = {}): FeedShown => ({
  id: 5,
  advertiserId: 1,
  version: 3,
  feed: FEED,
  found: {
    form: 'RSS',
    names: ['guid', 'title', 'description', 'link', 'image', 'price', 'stock'],
    guessed: FEED.fields,
    items: 4,
    broken: 1,
    told: [{ nth: 4, key: 'K', says: '“K”: It has no title.' }]
  },
  readHour: 1450,
  problem: null,
  unknown: ['colour'],
  counts: { there: 2, out: 1, gone: 0, broken: 0, wanted: 2, ads: 0, changed: 0, stopped: 0 },
  ...over
})
const item = (id: number, title: string, over: Partial<FeedItemView> = {}): FeedItemView => ({
  id,
  nth: id,
  key: `K-${id}`,
  title,
  price: '20 EUR',
  link: 'https://shop.example/1',
  picture: '',
  state: 'there',
  sinceHour: 1450,
  said: [{ part: 'longHeadline', value: `${title}!` }],
  creative: null,
  changed: false,
  lines: [],
  ...over
})

async function open(over: Partial<FeedShown> = {}, items = [item(1, 'Longtail'), item(2, 'Flatbed'), item(3, 'Baker', { state: 'out' })]) {
  const reading = useManifest().load()
  const lines = [manifestLine(7, { format: 'native', name: 'Native, DE' }), manifestLine(8, { format: 'display' })]
  const campaigns = [{ id: lines[0].campaignId, advertiserId: 1 }]
  await asked('GET', '/manifest')[0].reply({ body: { advertisers: [{ id: 1, name: 'Ostler' }], campaigns, lines, possibleSince: 0 } })
  await reading
  const view = mount(FeedView, { global: { plugins: [router] }, attachTo: document.body })
  await asked('GET', '/feeds/5')[0].reply({ body: shown(over) })
  await flushPromises()
  await asked('GET', '/advertisers/1/files')[0].reply({ body: [ICON] })
  await flushPromises()
  await asked('GET', '/feeds/5/items?show=wanted&from=0')[0].reply({ body: { count: items.length, items } })
  await flushPromises()
  return view
}

describe('a feed', () => {
  it('begins with its address alone', async () => {
    const form = mount(FeedForm, {
      props: { advertiser: { id: 1, name: 'Ostler Cargo Bikes' }, files: [ICON], known: 1 },
      global: { plugins: [router] }
    })
    await form.get('[data-test=new-feed-address]').setValue(' https://shop.example/bikes.rss ')
    await form.get('form').trigger('submit')
    const [begun] = asked('POST', '/advertisers/1/feeds')
    expect(begun.body.feed).toMatchObject({
      name: 'Feed 2',
      address: 'https://shop.example/bikes.rss',
      template: { brand: 'Ostler Cargo Bikes', icon: `sha256:${ICON.sha256}` }
    })
    await begun.reply({ status: 422, body: { code: 'invalid', title: '', issues: [{ field: 'feed.address', message: 'No address.' }] } })
    expect(form.get('[role=alert]').text()).toBe('No address.')
  })

  it('says how it was read, what makes no ad, and what its templates name in vain', async () => {
    const view = await open({ problem: 'It answers 404.' })
    expect(view.get('[data-test=feed-words]').text()).toBe('RSS: 4 items, 2 there, 1 out of stock, 1 make no ad')
    expect(view.get('[data-test=feed-problem]').text()).toContain('It answers 404. What was known of its items stands.')
    expect(view.text()).toContain('tried Mon 2 Mar')
    expect(view.get('[data-test=feed-broken]').text()).toContain('Item 4: “K”: It has no title.')
    expect(view.text()).toContain('No item has {colour}: nothing stands there.')
    expect(view.findAll('.FeedView-table tbody input').map((one) => one.attributes('disabled'))).toEqual([undefined, undefined, ''])
  })

  it('is saved and read by what was changed; ads are made of it only then', async () => {
    const view = await open()
    await view.get('[data-test=feed-button]').setValue('')
    await view.get('[data-test=feed-icon]').setValue(`sha256:${ICON.sha256}`)
    expect(view.get('[data-test=read-feed]').text()).toBe('Save, and read it by this')
    await view.get('[data-test=choose-all]').trigger('click')
    expect(view.get('[data-test=make-feed]').attributes('disabled')).toBe('')
    await view.get('[data-test=feed-address]').setValue('shop')
    await view.get('[data-test=read-feed]').trigger('click')
    expect(asked('PUT', '/feeds/5')).toHaveLength(0)
    expect(view.get('.FeedTerms [role=alert]').text()).toContain('must begin with https://')
    await view.get('[data-test=feed-address]').setValue('https://shop.example/b.rss')
    await view.get('[data-test=read-feed]').trigger('click')
    const [saved] = asked('PUT', '/feeds/5')
    expect([saved.body.version, saved.body.feed.template.button]).toEqual([3, ''])
    await saved.reply({ body: shown({ version: 4, feed: saved.body.feed }) })
    await asked('GET', '/feeds/5/items?show=wanted&from=0')[1].reply({ body: { count: 1, items: [item(1, 'Longtail')] } })
    await flushPromises()
    expect(view.get('[data-test=read-feed]').text()).toBe('Read it now')
  })

  it('makes ads of what is chosen, on a line, and names what made none', async () => {
    const view = await open()
    await view.get('[data-test=choose-all]').trigger('click')
    await view.get('[data-test=feed-line]').setValue('7')
    const button = view.get('[data-test=make-feed]')
    expect(button.text()).toBe('Make 2 ads and put them on the line')
    await button.trigger('click')
    const [asks] = asked('POST', '/feeds/5/ads')
    expect(asks.body).toEqual({ items: [1, 2], line: 7 })
    const refused = [{ item: 2, title: 'Flatbed', says: 'It has no picture.' }]
    await asks.reply({ body: { made: 1, renewed: 0, put: 1, refused, view: shown() } })
    await flushPromises()
    expect(view.get('[data-test=feed-made]').text()).toContain('1 ad is made. 1 put on Native, DE.')
    expect(view.text()).toContain('“Flatbed”: It has no picture.')
  })

  it('of a reader is only looked at', async () => {
    useSession().user = { id: 1, formats: null, name: 'Rui', email: 'r@x.example', role: 'reader' }
    const view = await open()
    expect(view.find('[data-test=read-feed]').exists()).toBe(false)
    expect(view.find('[data-test=make-feed]').exists()).toBe(false)
    const fields = view.findAll('.FeedTerms input, .FeedTerms select')
    expect(fields.length).toBeGreaterThan(15)
    expect(fields.filter((one) => one.attributes('disabled') !== '')).toEqual([])
  })
})
