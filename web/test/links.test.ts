import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { LinkChange } from '@tin-harbor/core/contract'
import LinkField from '@/parts/LinkField.vue'
import TailField from '@/parts/TailField.vue'
import AdvertiserTail from '@/views/campaigns/AdvertiserTail.vue'
import LinksReplace from '@/views/campaigns/LinksReplace.vue'
import { settle, traderAt, type Request } from './support'

let requests: Request[]
beforeEach(() => {
  ;({ requests } = traderAt({ line: '/campaigns/lines/:lineId' }))
})
afterEach(() => vi.useRealTimers())
const asked = (method: string, path: string) => requests.filter((request) => request.method === method && request.path === path)
const LINK = 'https://shop.example/lamp?a=1#top'

describe('a landing link', () => {
  const field = (link: string, tail = '') => mount(LinkField, { props: { id: 'link', link, tail, disabled: false } })

  it('is told apart by its parts and its tail, and filled in with an example', () => {
    const view = field(LINK, 'click=${CLICK_ID}&x=${NOBODY}')
    expect(view.findAll('.LinkSaid-parts > span').map((one) => [one.get('small').text(), one.get('span').text()])).toEqual([
      ['address', 'https://shop.example'],
      ['path', '/lamp'],
      ['parameters', '?a=1'],
      ['tail', '&click=${CLICK_ID}&x=${NOBODY}'],
      ['place in the page', '#top']
    ])
    expect(view.get('[data-test=link-example]').text()).toMatch(/a=1&click=c1\.\w+&x=\$\{NOBODY\}#top$/)
    expect(view.text()).toContain('Nothing is known by ${NOBODY}')
    expect(field('').find('[data-test=link-parts]').exists()).toBe(false)
  })

  it('takes a macro as one more parameter, and what is written wrong as it is meant', async () => {
    const view = field(LINK)
    await view.get('[data-test=put-macro]').setValue('AD_ID')
    expect(view.emitted('change')?.[0]).toEqual(['https://shop.example/lamp?a=1&ad_id=${AD_ID}#top'])
    const wrong = field('https://shop.example/?c=${clickId}')
    await wrong
      .findAll('button')
      .find((one) => one.text() === 'write it so')
      ?.trigger('click')
    expect(wrong.emitted('change')?.[0]).toEqual(['https://shop.example/?c=${CLICK_ID}'])
  })

  it('is looked at with its tail: whether it answers, how fast and where it ends; another link is another question', async () => {
    const view = field(LINK, 'b=2')
    const look = () => view.get('[data-test=look-at-link]').trigger('click')
    await look()
    const [first] = asked('POST', '/links/looked')
    expect(first.body).toEqual({ link: 'https://shop.example/lamp?a=1&b=2#top' })
    const found = {
      link: LINK,
      problem: null,
      address: 'https://shop.example/en',
      hops: [LINK, 'https://shop.example/en'],
      title: 'Lamps',
      milliseconds: 12
    }
    await first.reply({ body: found })
    await flushPromises()
    expect(view.get('[data-test=link-looked]').text()).toBe('It answers in 12 ms with “Lamps”, led on once, to https://shop.example/en.')
    await view.setProps({ link: 'https://gone.example/' })
    expect(view.find('[data-test=link-looked]').exists()).toBe(false)
    await look()
    await asked('POST', '/links/looked')[1].reply({ body: { ...found, problem: 'It answers 404.' } })
    await flushPromises()
    expect(view.get('[data-test=link-looked]').text()).toBe('It was not reached: It answers 404.')
  })
})

describe('a tail', () => {
  it('takes the usual parameters after those that are there', async () => {
    const view = mount(TailField, { props: { id: 'tail', tail: 'a=1' } })
    await view.get('select').setValue('The click alone')
    expect(view.emitted('change')?.[0]).toEqual(['a=1&click=${CLICK_ID}'])
  })

  it('of an advertiser is saved for all its campaigns', async () => {
    const advertiser = { id: 1, name: 'Nightjar', domain: 'nightjar.example', zone: 'UTC', linkTail: 'a=1', version: 3 }
    const view = mount(AdvertiserTail, { props: { advertiser } })
    expect(view.text()).toContain('Before it stands that of Nightjar: a=1')
    await view.get('[data-test=advertiser-tail]').trigger('click')
    await view.get('#advertiser-tail').setValue('b=2')
    await view.get('[data-test=save-advertiser-tail]').trigger('click')
    const [saved] = asked('PUT', '/advertisers/1/tail')
    expect(saved.body).toEqual({ version: 3, linkTail: 'b=2' })
    await saved.reply({ status: 409, body: { code: 'stale', title: 'Somebody else changed it.' } })
    await flushPromises()
    expect(view.get('[role=alert]').text()).toBe('Somebody else changed it.')
  })
})

describe('links of many lines', () => {
  it('are seen before and after as they are typed, and changed but for those that are left', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    const view = mount(LinksReplace, { props: { campaign: 7 } })
    await view.get('[data-test=links-find]').setValue('/lamp')
    await view.get('[data-test=links-replace]').setValue('/light')
    await vi.advanceTimersByTimeAsync(400)
    const [look] = asked('POST', '/campaigns/7/links')
    expect(look.body).toEqual({ find: '/lamp', replace: '/light', lines: null })
    const change = (line: number, ad: number | null = null): LinkChange => ({
      line,
      name: `Line ${line}`,
      version: 4,
      ad,
      nth: null,
      before: 'https://shop.example/lamp',
      after: 'https://shop.example/light',
      problem: null
    })
    await look.reply({ body: [change(1), change(1, 31), change(2)] })
    await settle()
    expect(view.findAll('tbody th').map((one) => one.text())).toEqual(['Line 1', 'Line 1, ad 31', 'Line 2'])
    await view.findAll('tbody input')[2].setValue(false)
    expect(view.get('[data-test=change-links]').text()).toBe('Change 2 links')
    await view.get('[data-test=change-links]').trigger('click')
    const [, apply] = asked('POST', '/campaigns/7/links')
    expect(apply.body.lines).toEqual([{ line: 1, version: 4 }])
    await apply.reply({ status: 422, body: { code: 'invalid', title: '', issues: [{ field: 'replace', message: 'It leads nowhere.' }] } })
    await settle()
    expect(view.get('[role=alert]').text()).toBe('It leads nowhere.')
  })
})
