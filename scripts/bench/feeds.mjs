import { quantile, round } from './measure.mjs'

/** How often the long feed is read again, changed each time. */
const READS = 4
const DRAWS = 8

/** @typedef {{ advertiserId: number, medium: string, sha256: string, facts: { width: number } }} LibraryFile */

/**
 * A feed of ten thousand items, new and then changed whole each time; and a plate drawn in all its sizes.
 * @param {{ address: string, headers: Record<string, string>, files: LibraryFile[] }} where `files`: the library of an advertiser, of which
 * the plate shows a picture of a card
 */
export async function feedAndPlateTimes({ address, headers, files }) {
  const card = files.find(({ medium, facts }) => medium === 'picture' && facts.width === 1200)
  if (!card) throw new Error('The library has no picture of a card.')
  const { advertiserId } = card
  const ask = async (/** @type {string} */ method, /** @type {string} */ path, /** @type {unknown} */ body) => {
    const answer = await fetch(`${address}/api${path}`, {
      method,
      headers: { ...headers, 'content-type': 'application/json' },
      body: JSON.stringify(body)
    })
    if (!answer.ok) throw new Error(await answer.text())
    return answer.json()
  }
  const timed = async (/** @type {() => Promise<any>} */ work) => {
    const began = performance.now()
    const answer = await work()
    return { answer, seconds: (performance.now() - began) / 1000 }
  }
  const feed = {
    name: 'Lamps',
    address: 'https://tagworks.example/feed/many.xml',
    fields: { key: '', title: '', text: '', link: '', picture: '', price: '', stock: '' },
    template: { headline: '{title}', longHeadline: '{title} for {price}', text: '{text}', button: 'See it', brand: 'Lamps', icon: '' },
    which: { words: '', least: null, most: null },
    changed: 'goes on'
  }
  const first = await timed(() => ask('POST', `/advertisers/${advertiserId}/feeds`, { feed }))
  const { id, found } = first.answer
  let { version, feed: draft } = first.answer
  const again = []
  for (let n = 0; n < READS; n++) {
    const next = { ...draft, template: { ...draft.template, button: `Look ${n}` } }
    const { answer, seconds } = await timed(() => ask('PUT', `/feeds/${id}`, { version, feed: next }))
    ;({ version, feed: draft } = answer)
    again.push(seconds)
  }
  const same = (await timed(() => ask('POST', `/feeds/${id}/read`, undefined))).seconds
  const plate = {
    name: 'Winter',
    layout: 'veil',
    headline: 'See the winter sky',
    text: 'A telescope that stands in a minute, for clear nights.',
    brand: 'Nightjar',
    button: 'See it',
    image: '',
    whole: false,
    cover: `sha256:${card.sha256}`,
    focal: { x: 0.5, y: 0.5 },
    ground: '#16323c',
    accent: '#d9a441',
    sizes: [
      '300x250',
      '728x90',
      '320x50',
      '300x600',
      '160x600',
      '970x250',
      '320x100',
      '336x280',
      'interstitial, upright',
      'interstitial, wide'
    ]
  }
  const { id: plateId } = await ask('POST', `/advertisers/${advertiserId}/plates`, { plate })
  const draws = []
  for (let n = 0; n < DRAWS; n++)
    draws.push((await timed(() => ask('POST', `/plates/${plateId}/drawn`, { plate: { ...plate, headline: `See the sky ${n}` } }))).seconds)
  const seconds = quantile(again, 0.5)
  return {
    feedItems: found.items,
    feedBroken: found.broken,
    feedSecondsNew: round(first.seconds),
    feedSecondsChanged: round(seconds),
    feedSecondsSame: round(same),
    feedItemsPerSecond: Math.round(found.items / seconds),
    plateTenSizesSeconds: round(quantile(draws, 0.5))
  }
}
