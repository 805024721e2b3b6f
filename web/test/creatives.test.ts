import { flushPromises, mount } from '@vue/test-utils'
import type { Router } from 'vue-router'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { stillPicture, type FileFacts } from '@tin-harbor/core/creative'
import CreativesView from '@/views/creatives/CreativesView.vue'
import SpecificationView from '@/views/creatives/SpecificationView.vue'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import { file } from './library-file'
import { settle, traderAt, type Request } from './support'

// Its build for servers, which is taken here, keeps no uploads.
vi.mock('tus-js-client', () => ({ canStoreURLs: false }))
// Films are looked at by a browser alone.
vi.mock('mediainfo.js/MediaInfoModule.wasm?url', () => ({ default: '' }))

const MB = 1024 * 1024
const film = (over: Partial<FileFacts> = {}): FileFacts => ({
  ...stillPicture('video/mp4', 30 * MB, 1280, 720),
  medium: 'film',
  seconds: 46,
  seen: { codec: 'h264', kbps: 5000, framesASecond: 25 },
  heard: { codec: 'aac', kbps: 128, channels: 2, hertz: 48_000, lufs: -18, isSilent: false },
  ...over
})
const FILES = [
  file(3, 'Harbour.mp4', film(), { tags: ['spring'] }),
  file(2, 'Box.png', stillPicture('image/png', 9000, 300, 250), { usedBy: [7] }),
  file(1, 'Old.png', stillPicture('image/png', 9000, 300, 250), { retired: true })
]

let requests: Request[]
let router: Router
beforeEach(() => {
  ;({ requests, router } = traderAt({
    creatives: '/creatives',
    specification: '/creatives/specification',
    line: '/campaigns/lines/:lineId'
  }))
})
const asked = (method: string, path: string) => requests.filter((request) => request.method === method && request.path === path)

async function open(query: Record<string, string> = {}) {
  await router.push({ name: 'creatives', query })
  const view = mount(CreativesView, { global: { plugins: [router], stubs: { FilmStrip: true } } })
  void useManifest().load()
  await settle()
  const advertisers = [1, 2].map((id) => ({ id, name: id === 1 ? 'Nightjar' : 'Ostler', domain: '', zone: 'UTC' }))
  await asked('GET', '/manifest')[0].reply({ body: { advertisers, campaigns: [], lines: [], possibleSince: 0 } })
  await flushPromises()
  await asked('GET', `/advertisers/${query.advertiser ?? 1}/files`)[0].reply({ body: FILES })
  await flushPromises()
  return view
}

describe('the sheet of files', () => {
  it('lies in rows by the slots that take them, what fits nothing first, and is looked through by kind, use, tag and name', async () => {
    const view = await open()
    const names = () => view.findAll('.CreativesView-name').map((one) => one.text())
    expect(view.findAll('.CreativesView-row h2').map((one) => one.text())).toEqual(['fits no slot as it is', '300x250'])
    expect([names(), view.text()]).toEqual([
      ['Harbour.mp4', 'Box.png'],
      expect.stringContaining('MP4, 1280x720, 46 s, 30 MB; fits nothing yet')
    ])
    await view.get('[aria-label="Use"]').setValue('retired')
    await flushPromises()
    expect(names()).toEqual(['Old.png'])
    await view.get('[aria-label="Use"]').setValue('all')
    await view.get('[aria-label="Kind of file"]').setValue('picture')
    await flushPromises()
    expect(names()).toEqual(['Box.png'])
    await view.get('[aria-label="Kind of file"]').setValue('')
    await view.get('[aria-label="Tag"]').setValue('spring')
    await flushPromises()
    expect(names()).toEqual(['Harbour.mp4'])
    await view.get('input[type=search]').setValue('nothing like it')
    expect(view.text()).toContain('No file is like that.')
  })

  it('says in its margin what is wrong, for whom, and what would be made of it; makes it, and shows it beside what it was', async () => {
    const view = await open({ file: '3' })
    expect(view.get('[data-test=file-findings]').text().replace(/\s+/g, ' ')).toContain('30 MB; allowed is at most 10 MB')
    expect(view.text()).toMatch(/46 s; Tidewater, Northgate, Pennant: 6 to 30 s/)
    expect(view.get('.FitFilm-words').text()).toBe('It is brought under 10 MB.')
    await view.get('[aria-label="Source it is for"]').setValue('Tidewater')
    expect(view.get('.FitFilm-words').text()).toBe('It is cut to 0:00-0:30, brought under 10 MB.')
    await view.get('[aria-label="Seconds at which the part begins"]').setValue('4')
    await view.get('[data-test=make-fit]').trigger('click')
    const [job] = asked('POST', '/files/3/film-fit')
    expect(job.body).toMatchObject({ from: 4, to: 30, mostBytes: 10 * MB, frame: null, silence: false })
    const told = { id: 5, file: 3, words: '', share: 0.5, said: '', made: [] as number[] }
    await job.reply({ body: { ...told, state: 'works' } })
    await vi.waitFor(() => expect(asked('GET', '/fits/5')).toHaveLength(1))
    await asked('GET', '/fits/5')[0].reply({ body: { ...told, state: 'done', share: 1, made: [4] } })
    const made = file(4, 'Harbour, cut', film({ bytes: 9 * MB, seconds: 26 }), { madeFrom: 3, madeHow: 'cut to 0:04-0:30' })
    await asked('GET', '/advertisers/1/files')[1].reply({ body: [made, ...FILES] })
    await flushPromises()
    expect(view.get('.FileNote h2').text()).toBe('Harbour, cut')
    expect([view.get('.FitFilm-words').text(), view.find('[data-test=make-fit]').exists()]).toEqual(['It is taken there as it is.', false])
    expect(view.findAll('.FileNote-both figcaption').map((one) => one.text())).toEqual([
      'before: MP4, 1280x720, 46 s, 30 MB',
      'as it is served'
    ])
  })

  it('frames a film upright or square where its slot takes that, with what is kept in sight', async () => {
    const view = await open({ file: '3' })
    await view.get('[aria-label="Slot it is for"]').setValue('medium player')
    const ratios = view.get('[aria-label="Shape of the frame"]')
    expect(ratios.findAll('option').map((one) => one.text())).toEqual(['as the slot needs it', '16:9', '1:1', '9:16'])
    await ratios.setValue(String(9 / 16))
    expect(view.get('.FitFilm-words').text()).toBe('It is cropped to 720x1280, brought under 10 MB.')
    await view.get('[aria-label="What is kept in sight, from left to right"]').setValue('0.8')
    await view.get('[data-test=make-fit]').trigger('click')
    const [job] = asked('POST', '/files/3/film-fit')
    expect(job.body.frame).toEqual({ width: 720, height: 1280, how: 'crop', focal: { x: 0.8, y: 0.5 } })
    await ratios.setValue('')
    expect(view.get('.FitFilm-words').text()).toBe('It is brought under 10 MB.')
  })

  it('makes what browsers do not play so that it can be looked at, and says when that failed', async () => {
    const odd = film({ type: 'video/x-matroska' })
    const view = await open({ file: '3' })
    expect(view.find('[data-test=make-playable]').exists()).toBe(false)
    const files = view.findComponent({ name: 'FileNote' })
    await files.vm.$emit('saved', file(3, 'Harbour.mkv', odd))
    await flushPromises()
    await view.get('[data-test=make-playable]').trigger('click')
    const told = { id: 5, file: 3, words: '', share: 0, made: [] as number[] }
    await asked('POST', '/files/3/playable')[0].reply({ body: { ...told, state: 'failed', said: 'It could not be made.' } })
    await flushPromises()
    expect(view.get('.FileNote [role=alert]').text()).toBe('It could not be made.')
    await view.get('[data-test=make-playable]').trigger('click')
    await asked('POST', '/files/3/playable')[1].reply({ body: { ...told, state: 'done', share: 1, said: '' } })
    await asked('GET', '/advertisers/1/files')[1].reply({ body: [file(3, 'Harbour.mkv', odd, { hasProxy: true })] })
    await flushPromises()
    expect(view.get('video').attributes('src')).toBe('/api/files/3/content?playable=yes')
  })

  it('saves what a file is called, and says what the server refuses', async () => {
    const view = await open({ file: '2' })
    const fields = view.findAll('.FileNote form input')
    await fields[1].setValue('A box')
    await fields[2].setValue('spring, box , spring')
    await view.get('.FileNote form').trigger('submit')
    const [saving] = asked('PUT', '/files/2')
    expect(saving.body).toEqual({ name: 'Box.png', altText: 'A box', tags: ['spring', 'box'], retired: false, version: 1 })
    await saving.reply({
      status: 409,
      body: {
        code: 'stale',
        title: 'The file was changed in the meantime; your edit was not saved.',
        current: { ...FILES[1], name: 'Crate.png', version: 4 }
      }
    })
    await flushPromises()
    expect(view.get('.FileNote [role=alert]').text()).toMatch(/changed in the meantime; .* It is “Crate.png” now, without a text\./)
    // What is typed stays, and is saved over what is there by now.
    await view.get('.FileNote form').trigger('submit')
    expect(asked('PUT', '/files/2')[1].body).toMatchObject({ altText: 'A box', version: 4 })
  })

  it('cuts a picture for slots that are chosen, with the point moved by keys', async () => {
    const view = await open({ file: '2' })
    await view.get('.FitPicture-point').trigger('keydown', { key: 'ArrowRight' })
    await view.get('.FitPicture-point').trigger('keydown', { key: 'ArrowUp' })
    const none = view.findAll('[data-test=fit-picture] button').find((one) => one.text() === 'none')
    await none?.trigger('click')
    expect(view.get('[data-test=cut-picture]').attributes('disabled')).toBeDefined()
    await view.get('input[value="728x90 file"]').setValue(true)
    await view.get('[data-test=cut-picture]').trigger('click')
    const { slots, focal } = asked('POST', '/files/2/picture-fit')[0].body as { slots: object[]; focal: { x: number; y: number } }
    expect(slots).toEqual([{ shape: '728x90', part: 'file', crop: null }])
    expect([focal.x, focal.y].map((share) => Math.round(share * 100))).toEqual([52, 48])
  })

  it('goes on with what is made while another file is looked at', async () => {
    const view = await open({ file: '3' })
    await view.get('[data-test=make-fit]').trigger('click')
    const told = { id: 5, file: 3, words: '', share: 0.25, said: '', made: [] as number[] }
    await asked('POST', '/files/3/film-fit')[0].reply({ body: { ...told, state: 'works' } })
    await flushPromises()
    expect([view.get('.FileNote progress').attributes('value'), view.find('[data-test=make-fit]').exists()]).toEqual(['0.25', false])
    await view.findAll('.CreativesView-row button')[1].trigger('click')
    await flushPromises()
    expect([view.get('.FileNote h2').text(), view.find('.FileNote progress').exists()]).toEqual(['Box.png', false])
    await vi.waitFor(() => expect(asked('GET', '/fits/5')).toHaveLength(1))
    await asked('GET', '/fits/5')[0].reply({ body: { ...told, state: 'done', share: 1, made: [4] } })
    const made = file(4, 'Harbour, cut', film({ bytes: 9 * MB }), { madeFrom: 3, madeHow: 'cut' })
    await asked('GET', '/advertisers/1/files')[1].reply({ body: [made, ...FILES] })
    await flushPromises()
    // It lies on the sheet; whoever looks at another file goes on looking.
    expect([view.text().includes('Harbour, cut'), view.get('.FileNote h2').text()]).toEqual([true, 'Box.png'])
  })

  it('says that there is nothing yet, and what could not be read', async () => {
    await router.push({ name: 'creatives', query: { advertiser: '2' } })
    const view = mount(CreativesView, { global: { plugins: [router] } })
    void useManifest().load()
    expect(view.text()).toContain('Reading the library')
    await asked('GET', '/manifest')[0].reply({
      body: { advertisers: [{ id: 2, name: 'Ostler', domain: '', zone: 'UTC' }], campaigns: [], lines: [], possibleSince: 0 }
    })
    await flushPromises()
    await asked('GET', '/advertisers/2/files')[0].reply({ status: 503, body: { code: 'away', title: 'The database is away.' } })
    await flushPromises()
    expect(view.get('[role=alert]').text()).toContain('The database is away.')
    await view.get('[role=alert] button').trigger('click')
    await asked('GET', '/advertisers/2/files')[1].reply({ body: [] })
    await flushPromises()
    expect(view.text()).toContain('Nothing here yet. Add a picture')
  })

  it('is only read by a reader', async () => {
    useSession().user = { id: 1, formats: null, name: 'Rui', email: 'r@x.example', role: 'reader' }
    const view = await open({ file: '3' })
    expect([view.find('[data-test=file]').exists(), view.find('.FileNote form').exists(), view.find('.FitFilm').exists()]).toEqual([
      false,
      false,
      false
    ])
    expect(view.find('[data-test=file-findings]').exists()).toBe(true)
  })
})

describe('what slots take', () => {
  it('is told from the table that checks go by', () => {
    const view = mount(SpecificationView)
    const row = view.findAll('tbody tr').find((one) => one.get('th').text() === 'large player')
    expect(row?.findAll('td').map((cell) => cell.text())).toEqual([
      'film',
      'MP4, WebM',
      '1280x720 to 3840x2160',
      '16:9',
      '6 to 60 s',
      'needed, -26 to -14 LUFS',
      'H.264, VP8, VP9, AAC, Opus, Vorbis',
      '10 MB'
    ])
  })
})
