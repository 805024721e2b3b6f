import { flushPromises, mount } from '@vue/test-utils'
import type { Router } from 'vue-router'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { stillPicture, type Mix } from '@tin-harbor/core/creative'
import type { MixView as MixShown } from '@tin-harbor/core/contract'
import MixView from '@/views/mixer/MixView.vue'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import { file } from './library-file'
import { manifestLine, settle, traderAt, type Request } from './support'

vi.mock('tus-js-client', () => ({ canStoreURLs: false }))
vi.mock('mediainfo.js/MediaInfoModule.wasm?url', () => ({ default: '' }))

let requests: Request[]
let router: Router
beforeEach(async () => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
  ;({ requests, router } = traderAt({ creatives: '/creatives', mix: '/creatives/mixes/:mixId', line: '/campaigns/lines/:lineId' }))
  await router.push({ name: 'mix', params: { mixId: 5 } })
})
afterEach(() => vi.useRealTimers())
const asked = (method: string, path: string) => requests.filter((request) => request.method === method && request.path === path)
const card = stillPicture('image/png', 9000, 1200, 628)
const FILES = [
  file(1, 'one.png', card),
  file(2, 'two.png', card),
  file(3, 'wide.png', stillPicture('image/png', 9000, 1600, 1200)),
  file(4, 'icon.png', stillPicture('image/png', 9000, 200, 200))
]
const hashOf = (id: number) => `sha256:${String(id).repeat(64)}`
const mixOf = (over: Partial<Mix> = {}): Mix => ({
  name: 'Winter',
  kind: 'native',
  headlines: [
    { key: 'a', said: 'See the rings' },
    { key: 'b', said: 'STARS FOR TWO!!' }
  ],
  pictures: [{ key: 'p', said: 'one.png', file: hashOf(1) }],
  texts: [{ key: 't', said: 'Look up.' }],
  common: { brand: 'Nightjar', button: 'See it', icon: hashOf(4) },
  struck: [],
  ...over
})
const shown = (mix: Mix, over: Partial<MixShown> = {}): MixShown => ({
  id: 5,
  advertiserId: 1,
  version: 1,
  mix,
  made: [],
  stillOn: [],
  ...over
})

async function open(mix = mixOf(), over: Partial<MixShown> = {}) {
  const reading = useManifest().load()
  const lines = [manifestLine(7, { format: 'native', name: 'Native, DE' }), manifestLine(8, { format: 'display' })]
  const campaigns = [{ id: lines[0].campaignId, advertiserId: 1 }]
  await asked('GET', '/manifest')[0].reply({ body: { advertisers: [{ id: 1, name: 'Nightjar' }], campaigns, lines, possibleSince: 0 } })
  await reading
  const view = mount(MixView, { global: { plugins: [router] }, attachTo: document.body })
  await asked('GET', '/mixes/5')[0].reply({ body: shown(mix, over) })
  await flushPromises()
  await asked('GET', '/advertisers/1/files')[0].reply({ body: FILES })
  await flushPromises()
  return view
}
async function saved(): Promise<Request> {
  await vi.advanceTimersByTimeAsync(600)
  await settle()
  return asked('PUT', '/mixes/5').at(-1)!
}
const words = (view: Awaited<ReturnType<typeof open>>) => view.get('[data-test=mix-words]').text()

describe('the mixer', () => {
  it('makes parts of pasted lines and files, says what is found in them, and saves as it is typed', async () => {
    const view = await open()
    expect(words(view)).toBe('2 ads of 2 headlines and 1 picture')
    expect(view.text()).toContain('The short headline is written in capitals.')
    expect(view.text()).toContain('The short headline repeats its punctuation.')
    await view.get('[data-test=mix-headlines]').setValue('See the rings\nThe Moon\nA headline that is too long for its slot')
    await view.get('[data-test=add-headlines]').trigger('click')
    expect(words(view)).toBe('4 ads of 4 headlines and 1 picture')
    expect(view.text()).toContain('The short headline has 40 letters; 25 are allowed.')
    await view.get('[data-test=all-pictures]').trigger('click')
    expect(words(view)).toBe('8 ads of 4 headlines and 2 pictures')
    expect(view.get('[data-test=cut-pictures]').text()).toBe('cut another one to fit, and add it')
    const request = await saved()
    expect((request.body as { mix: Mix }).mix.headlines.map(({ said }) => said).slice(2)).toEqual([
      'The Moon',
      'A headline that is too long for its slot'
    ])
    await request.reply({ body: shown((request.body as { mix: Mix }).mix, { version: 2 }) })
    await flushPromises()
    expect(view.get('[data-test=mix-saving]').text()).toBe('saved')
  })

  it('strikes out single ads, rows, columns and sheets; arrow keys go from cell to cell', async () => {
    const view = await open(
      mixOf({
        texts: [
          { key: 't', said: 'Look up.' },
          { key: 'u', said: 'Tonight.' }
        ]
      })
    )
    await view.get('[data-cell="1 0"]').trigger('click')
    expect(words(view)).toBe('3 ads of 2 headlines, 1 picture and 2 texts, 1 struck')
    await view.get('[aria-label="Strike headline 1 out"]').trigger('click')
    expect(words(view)).toBe('1 ad of 2 headlines, 1 picture and 2 texts, 3 struck')
    await view.get('[aria-label="Strike headline 1 out"]').trigger('click')
    await view.get('[aria-label="Strike text 2 out"]').trigger('click')
    expect(words(view)).toBe('1 ad of 2 headlines, 1 picture and 2 texts, 3 struck')
    ;(view.get('[data-cell="0 0"]').element as HTMLElement).focus()
    await view.get('[data-cell="0 0"]').trigger('keydown', { key: 'ArrowDown' })
    expect((document.activeElement as HTMLElement).dataset.cell).toBe('1 0')
    await view.get('[aria-label="Take headline 2 away"]').trigger('click')
    expect(((await saved()).body as { mix: Mix }).mix).toMatchObject({ struck: [], headlines: [{ key: 'a' }] })
  })

  it('goes over what somebody else did meanwhile, and tells of a part that both wrote', async () => {
    const view = await open()
    await view.get('[aria-label="Headline 1"]').setValue('Mine')
    const theirs = mixOf({ headlines: [{ key: 'a', said: 'Theirs' }, mixOf().headlines[1], { key: 'c', said: 'New' }] })
    await (await saved()).reply({ status: 409, body: { code: 'stale', title: 'It was changed.' } })
    await flushPromises()
    await asked('GET', '/mixes/5')[1].reply({ body: shown(theirs, { version: 2 }) })
    await flushPromises()
    const again = asked('PUT', '/mixes/5')[1].body as { version: number; mix: Mix }
    expect([again.version, again.mix.headlines.map(({ said }) => said)]).toEqual([2, ['Mine', 'STARS FOR TWO!!', 'New']])
    await asked('PUT', '/mixes/5')[1].reply({ body: shown(again.mix, { version: 3 }) })
    await flushPromises()
    expect(view.text()).toContain('Somebody else wrote “Theirs” where you wrote “Mine”; yours stands.')
    await view.get('.MixView-clash button').trigger('click')
    expect((view.get('[aria-label="Headline 1"]').element as HTMLTextAreaElement).value).toBe('Theirs')
  })

  it('makes the ads, puts them on a line of their format, and says what stops them', async () => {
    const cell = { cell: 'a p t', creative: 9, lines: [7] }
    const view = await open(mixOf(), { made: [cell], stillOn: [{ ad: 4, line: 7 }] })
    expect(view.get('[data-cell="0 0"]').text()).toContain('on L-7')
    expect(view.text()).toContain('1 ad that is struck out or written anew stays on L-7')
    expect(view.findAll('[data-test=mix-line] option').map((one) => one.text())).toEqual([
      'no line yet: made for the library',
      expect.stringMatching(/^Native, DE, /)
    ])
    await view.get('[data-test=mix-line]').setValue(view.findAll('[data-test=mix-line] option')[1].element.getAttribute('value'))
    await view.get('[data-test=make-mix]').trigger('click')
    await settle()
    const [request] = asked('POST', '/mixes/5/make')
    expect(request.body).toEqual({ version: 1, line: 7, takes: true })
    const issues = [{ field: 'headlines[1]', message: 'The short headline has 30 letters; 25 are allowed.' }]
    await request.reply({ status: 422, body: { code: 'invalid', title: 'No.', issues } })
    await flushPromises()
    expect(view.text()).toContain('The short headline has 30 letters; 25 are allowed.')
    await view.get('[data-test=make-mix]').trigger('click')
    await settle()
    const counts = { made: 1, there: 1, put: 1, taken: 1 }
    await asked('POST', '/mixes/5/make')[1].reply({ body: { ...counts, view: shown(mixOf(), { made: [cell] }) } })
    await flushPromises()
    expect(view.get('[data-test=mix-made]').text()).toContain('1 ad is made, 1 was there already. 1 put on Native, DE, 1 taken off.')
  })

  it('takes parts from pages: titles, descriptions and pictures; links that are none are told', async () => {
    const view = await open(mixOf({ headlines: [], texts: [], common: { brand: '', button: 'Go', icon: hashOf(4) } }))
    await view.get('[data-test=from-pages]').trigger('click')
    await view.get('[data-test=page-links]').setValue('https://nightjar.example/\nnonsense')
    await view.get('[data-test=read-pages]').trigger('click')
    const page = {
      link: 'https://nightjar.example/',
      problem: null,
      address: '',
      title: 'Clear nights',
      description: 'Look up.',
      brand: 'Nightjar',
      icon: null
    }
    const none = { ...page, link: 'nonsense', problem: 'No web address.', title: '', description: '', brand: '', pictures: [] }
    expect(asked('POST', '/pages/read')[0].body).toEqual({ links: 'https://nightjar.example/\nnonsense' })
    const pictures = ['a', 'b', 'c', 'd'].map((name) => `https://nightjar.example/${name}.png`)
    await asked('POST', '/pages/read')[0].reply({ body: [{ ...page, pictures }, none] })
    await flushPromises()
    const fetched = () => asked('POST', '/advertisers/1/fetched-files')
    expect(view.get('[data-test=pages-progress]').text()).toBe('Reading picture 1 of 3 …')
    await fetched()[0].reply({ body: { file: file(9, 'a.png', card), wasKnown: false } })
    await flushPromises()
    await fetched()[1].reply({ status: 422, body: { issues: [{ field: 'address', message: 'It answers 404.' }] } })
    await flushPromises()
    await fetched()[2].reply({ body: { file: file(9, 'a.png', card), wasKnown: true } })
    await flushPromises()
    // The first of a page, one after the other; the fourth is its furniture.
    expect(fetched().map(({ body }) => body)).toEqual(pictures.slice(0, 3).map((address) => ({ address })))
    expect(view.text()).toContain('b.png: It answers 404.')
    expect(view.find('[data-test=pages-progress]').exists()).toBe(false)
    expect(words(view)).toBe('1 ad of 1 headline and 1 picture')
    expect(view.get('[data-test=all-pictures]').text()).toBe('add all 2 that fit')
    expect(view.get('[data-test=pages-read]').text()).toContain('1 of 2 were read')
    expect(view.text()).toContain('nonsense: No web address.')
    expect(((await saved()).body as { mix: Mix }).mix).toMatchObject({
      headlines: [{ said: 'Clear nights' }],
      texts: [{ said: 'Look up.' }],
      common: { brand: 'Nightjar' }
    })
  })

  it('of a reader is only looked at', async () => {
    useSession().user = { id: 1, formats: null, name: 'Rui', email: 'r@x.example', role: 'reader' }
    const view = await open()
    expect([view.find('[data-test=make-mix]').exists(), view.find('[data-test=mix-headlines]').exists()]).toEqual([false, false])
    expect(view.get('[data-cell="0 0"]').attributes('disabled')).toBe('')
  })
})
