import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { stillPicture } from '@tin-harbor/core/creative'
import type { FileView } from '@tin-harbor/core/contract'
import AdForm from '@/views/creatives/AdForm.vue'
import BannerRun from '@/views/creatives/BannerRun.vue'
import FileSight from '@/views/creatives/FileSight.vue'
import FileVersions from '@/views/creatives/FileVersions.vue'
import ShortFilm from '@/views/creatives/ShortFilm.vue'
import SoundForm from '@/views/creatives/SoundForm.vue'
import { file } from './library-file'
import { traderAt, type Request } from './support'

const ICON = file(1, 'Icon', stillPicture('image/png', 9000, 256, 256))
const CARD = file(2, 'Card', stillPicture('image/png', 9000, 1200, 628))

/** As a slot takes it. */
const PLAYED = {
  seen: { codec: 'h264', kbps: 800, framesASecond: 25 },
  heard: { codec: 'aac', kbps: 96, channels: 2, hertz: 48_000, lufs: -20, isSilent: false },
  bytes: 900_000
}

let requests: Request[]
beforeEach(() => {
  ;({ requests } = traderAt({ creatives: '/creatives' }))
})
const asked = (method: string, path: string) => requests.filter((request) => request.method === method && request.path === path)

describe('an ad of parts', () => {
  const form = () => mount(AdForm, { props: { advertiser: 1, files: [ICON, CARD, { ...CARD, id: 3, name: 'Old', retired: true }] } })

  it('counts letters as they are seen, offers the files that each part takes, and says by the field what is wrong', async () => {
    const view = form()
    const options = (part: string) => view.findAll(`[data-test=ad-${part}] option`).map((one) => one.text())
    expect([options('icon'), options('picture')]).toEqual([
      ['none', 'Icon'],
      ['none', 'Card']
    ])
    await view.get('[data-test=ad-headline]').setValue('👩‍👩‍👧‍👦'.repeat(26))
    expect(view.text()).toContain('The short headline 26 of 25')
    await view.get('[data-test=ad-name]').setValue('Tonight')
    await view.get('[data-test=ad-icon]').setValue(`sha256:${ICON.sha256}`)
    expect(view.get('.AdForm-files img').attributes('alt')).toBe('Icon')
    await view.get('form').trigger('submit')
    const [first] = asked('POST', '/advertisers/1/made-creatives')
    expect(first.body).toMatchObject({
      name: 'Tonight',
      kind: 'native',
      parts: { icon: `sha256:${ICON.sha256}`, picture: null, brand: '' }
    })
    const issues = [
      { field: 'parts.brand', message: 'The brand is needed.' },
      { field: 'body', message: 'And something else.' }
    ]
    await first.reply({ status: 422, body: { code: 'invalid', title: 'Two fields', issues } })
    expect(view.findAll('[role=alert]').map((one) => one.text())).toEqual(['The brand is needed.', 'And something else.'])
    await view.get('form').trigger('submit')
    const made = { id: 9, name: 'Tonight', kind: 'native', shapes: ['native card', 'native row'] }
    await asked('POST', '/advertisers/1/made-creatives')[1].reply({ body: made })
    expect([view.find('[role=alert]').exists(), view.get('[data-test=ad-made]').text()]).toEqual([
      false,
      '“Tonight” is made; it can be put on lines whose slots take it: native card, native row.'
    ])
  })

  it('is a film with what goes with it: what is left out is none, and what is known of the film goes with it', async () => {
    const film = file(7, 'Film', { ...stillPicture('video/mp4', 900_000, 1280, 720), medium: 'film', seconds: 20, ...PLAYED })
    const view = mount(AdForm, { props: { advertiser: 1, files: [ICON, CARD, film] } })
    await view.get('[data-test=ad-kind]').setValue('video')
    expect(view.findAll('[data-test=ad-endCard] option').map((one) => one.text())).toEqual(['none', 'Card'])
    await view.get('[data-test=ad-file]').setValue(`sha256:${film.sha256}`)
    await view.get('[data-test=ad-overlay]').setValue('See it tonight')
    await view.get('[data-test=ad-overlayFrom]').setValue('4')
    await view.get('form').trigger('submit')
    expect(asked('POST', '/advertisers/1/made-creatives')[0].body.parts).toEqual({
      file: `sha256:${film.sha256}`,
      skipAfter: null,
      overlay: 'See it tonight',
      overlayFrom: 4,
      endCard: null,
      icon: null,
      companion: null,
      seconds: 20,
      width: 1280,
      height: 720
    })
  })

  it('is a page that opens in a window, looked at before anybody is sent there', async () => {
    const view = form()
    await view.get('[data-test=ad-kind]').setValue('pop page')
    const link = view.get('[data-test=ad-link]')
    const reading = async (address: string, over: object) => {
      await link.setValue(address)
      await link.trigger('change')
      const read = {
        link: address,
        problem: null,
        address,
        title: 'Stars',
        description: 'Tonight.',
        brand: '',
        icon: null,
        pictures: [],
        ...over
      }
      await asked('POST', '/pages/read')
        .at(-1)
        ?.reply({ body: [read] })
      await flushPromises()
      return view.get('[data-test=ad-page]').text()
    }
    expect(await reading('https://stars.example', { address: 'https://stars.example/en' })).toBe(
      'It answers: “Stars”, at https://stars.example/en. Tonight.'
    )
    expect(await reading('https://gone.example', { problem: 'It answers 404.' })).toBe('Visitors would not come through: It answers 404.')
    await view.get('form').trigger('submit')
    expect(asked('POST', '/advertisers/1/made-creatives')[0].body).toMatchObject({
      kind: 'pop page',
      parts: { link: 'https://gone.example' }
    })
  })

  it('is a tag of somebody else’s, which runs once it is made, and is told by what it reached for', async () => {
    vi.useFakeTimers()
    const view = form()
    await view.get('[data-test=ad-kind]').setValue('markup')
    await view.get('[data-test=ad-size]').setValue('300x250')
    await view.get('[data-test=ad-markup]').setValue('<p>x')
    await view.get('form').trigger('submit')
    const [sent] = asked('POST', '/advertisers/1/made-creatives')
    expect(sent.body).toEqual({ name: '', kind: 'markup', parts: { size: '300x250', markup: '<p>x' } })
    await sent.reply({ body: { id: 9, name: 'Tag', kind: 'markup', shapes: ['300x250'] } })
    await asked('GET', '/made-creatives/9/sandbox')[0].reply({ body: { address: '/sandbox/t/tag.html', until: 1 } })
    const frame = view.get('iframe')
    expect(['src', 'sandbox', 'width', 'height'].map((name) => frame.attributes(name))).toEqual([
      '/sandbox/t/tag.html',
      'allow-scripts',
      '300',
      '250'
    ])
    await vi.advanceTimersByTimeAsync(6000)
    const [ran] = asked('POST', '/made-creatives/9/ran')
    expect(ran.body).toEqual({ address: '/sandbox/t/tag.html', left: [] })
    vi.useRealTimers()
    await ran.reply({ body: { calls: ['ads.example'] } })
    expect(view.get('[data-test=banner-ran]').text()).toBe('It reached for ads.example, and was stopped.')
  })
})

describe('a banner that runs', () => {
  it('is heard of when it leads its frame away, and says so when it cannot be shown', async () => {
    vi.useFakeTimers()
    const ran = vi.fn(() => Promise.resolve())
    const open = () => Promise.resolve({ address: '/sandbox/t/index.html', until: 1 })
    const size = { width: 300, height: 250, calls: [] }
    mount(BannerRun, { props: { open, ran, ...size } })
    await vi.advanceTimersByTimeAsync(10)
    const violation = (effectiveDirective: string, blockedURI: string) =>
      document.dispatchEvent(Object.assign(new Event('securitypolicyviolation'), { effectiveDirective, blockedURI }))
    violation('frame-src', 'https://away.example')
    violation('img-src', 'https://ours.example')
    await vi.advanceTimersByTimeAsync(6000)
    expect(ran).toHaveBeenCalledWith('/sandbox/t/index.html', ['https://away.example'])
    vi.useRealTimers()
    const broken = mount(BannerRun, { props: { open: () => Promise.reject(new Error('The database is away.')), ran, ...size } })
    await flushPromises()
    expect(broken.text()).toBe('The database is away.')
  })
})

describe('a file', () => {
  const film = (codec: string, over: Partial<FileView> = {}) =>
    file(
      5,
      'Film',
      { ...stillPicture('video/mp4', 9000, 1280, 720), medium: 'film', seconds: 20, seen: { codec, kbps: 1, framesASecond: 25 } },
      over
    )

  it('that browsers do not play is seen by what stands in for it, once that is there', () => {
    const url = (one: FileView) =>
      mount(FileSight, { props: { file: one } })
        .find('video')
        .element?.getAttribute('src')
    expect(url(film('h264'))).toBe('/api/files/5/content')
    expect(url(film('hevc', { hasProxy: true }))).toBe('/api/files/5/content?playable=yes')
    expect(mount(FileSight, { props: { file: film('hevc') } }).text()).toBe('not played by browsers')
  })

  it('is marked moment by moment, none over another, at most as long as the part that is chosen', async () => {
    const view = mount(ShortFilm, {
      props: { from: 4, to: 30, modelValue: [], 'onUpdate:modelValue': (value) => view.setProps({ modelValue: value }) }
    })
    expect(view.get('[data-test=mark-moment]').text()).toBe('Mark 4 to 6 s')
    await view.get('[data-test=mark-moment]').trigger('click')
    expect(view.get('[data-test=mark-moment]').attributes('disabled')).toBeDefined()
    await view.setProps({ from: 1, to: 3.5 })
    await view.get('[data-test=mark-moment]').trigger('click')
    expect(view.get('[role=status]').text().replace(/\s+/g, ' ')).toBe('1 to 3.5 ✕ 4 to 6 ✕ together 4.5 of 6 s')
    await view.get('[aria-label="Drop the moment at 1 s"]').trigger('click')
    expect(view.props('modelValue')).toEqual([{ from: 4, to: 6 }])
  })

  it('tells what came of it with its ranges, what came before it, and gives its place to another', async () => {
    const now = file(2, 'Now', CARD.facts, { usedBy: [7, 8] })
    const before = file(4, 'Before', CARD.facts, { replacedBy: 2, retired: true })
    const view = mount(FileVersions, { props: { file: now, files: [now, before, file(6, 'Next', CARD.facts), film('h264')] } })
    const sums = { impressions: 20_000, viewable: 9000, views: 0, clicks: 40, conversions: 3, spendMicros: 24_000_000 }
    const interval = { low: 0.0015, high: 0.0026 }
    await asked('GET', '/files/2/results')[0].reply({ body: { ...sums, clickRange: interval, viewRange: interval } })
    expect(view.get('[data-test=file-results]').text().replace(/\s+/g, ' ')).toContain(
      '20,000 impressions for €24.00; 40 clicks, 0.200 % (0.150 % to 0.260 %); 3 conversions.'
    )
    expect(view.text()).toContain('Before came before')
    const select = view.get('[aria-label="File that takes its place"]')
    expect(select.findAll('option').map((one) => one.text())).toEqual(['choose', 'Next'])
    await select.setValue('6')
    await view.get('[data-test=replace-do]').trigger('click')
    const [first] = asked('POST', '/files/2/replace')
    expect(first.body).toEqual({ by: 6, version: 1 })
    await first.reply({ status: 422, body: { code: 'invalid', title: 'x', issues: [{ field: 'by', message: '“Ad”: It is too wide.' }] } })
    expect(view.get('[role=alert]').text()).toBe('“Ad”: It is too wide.')
    await view.get('[data-test=replace-do]').trigger('click')
    const was = { ...now, retired: true, replacedBy: 6 }
    await asked('POST', '/files/2/replace')[1].reply({ body: { ads: 3, lines: [7, 8], was, by: file(6, 'Next', CARD.facts) } })
    expect(view.emitted('saved')?.map(([one]) => (one as FileView).id)).toEqual([6, 2])
    expect(view.text()).toContain('“Next” is in its place, in 3 ads, which go to review again')
  })
})

describe('a spot', () => {
  it('is spoken while its maker waits, and says by the field what keeps it from that', async () => {
    const view = mount(SoundForm, { props: { advertiser: 1 } })
    await view.get('[data-test=spoken-name]').setValue('Ten minutes')
    await view.get('[data-test=spoken-script]').setValue('Ten minutes a day.')
    await view.get('form').trigger('submit')
    const [first] = asked('POST', '/advertisers/1/spoken')
    expect(first.body).toEqual({ name: 'Ten minutes', script: 'Ten minutes a day.', voice: 'English', seconds: 20, bed: true })
    await first.reply({ status: 422, body: { code: 'invalid', title: 'x', issues: [{ field: 'seconds', message: 'At least 5 s.' }] } })
    expect(view.get('[role=alert]').text()).toBe('At least 5 s.')
    await view.get('form').trigger('submit')
    const told = { id: 5, file: null, words: '', share: 0, said: 'It takes 12 s.', made: [] as number[] }
    await asked('POST', '/advertisers/1/spoken')[1].reply({ body: { ...told, state: 'failed' } })
    expect(view.get('[role=alert]').text()).toBe('It takes 12 s.')
    await view.get('form').trigger('submit')
    await asked('POST', '/advertisers/1/spoken')[2].reply({ body: { ...told, state: 'done', made: [44] } })
    expect(view.emitted('made')).toEqual([[44]])
  })

  it('is recorded, or said why not', async () => {
    const view = mount(SoundForm, { props: { advertiser: 1 } })
    const listen = vi.fn(() => Promise.reject(new DOMException('no', 'NotAllowedError')))
    vi.stubGlobal('navigator', { ...navigator, mediaDevices: { getUserMedia: listen } })
    await view.get('[data-test=record]').trigger('click')
    await flushPromises()
    expect(view.get('[role=alert]').text()).toContain('was not allowed to listen')
    const stop = vi.fn()
    listen.mockImplementation(() => Promise.resolve({ getTracks: () => [{ stop }] }) as never)
    class Recorder extends EventTarget {
      state = 'inactive'
      mimeType = 'audio/webm'
      constructor(readonly stream: unknown) {
        super()
      }
      start() {
        this.state = 'recording'
      }
      stop() {
        this.state = 'inactive'
        this.dispatchEvent(Object.assign(new Event('dataavailable'), { data: new Blob(['sound']) }))
        this.dispatchEvent(new Event('stop'))
      }
    }
    vi.stubGlobal('MediaRecorder', Recorder)
    await view.get('[data-test=record]').trigger('click')
    await flushPromises()
    expect(view.get('[data-test=record]').text()).toBe('Stop at 0 s')
    await view.get('[data-test=record]').trigger('click')
    const [[recorded]] = view.emitted('recorded') as [[File]]
    expect([recorded.name, recorded.size, stop.mock.calls.length]).toEqual(['Recording of 0 s.webm', 5, 1])
    vi.unstubAllGlobals()
  })
})
