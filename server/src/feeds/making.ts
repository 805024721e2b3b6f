import { stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Transaction } from 'sequelize'
import { withTerms } from '@tin-harbor/core/buying'
import { creativeSchema, itemDigest, partProblem } from '@tin-harbor/core/creative'
import type { FeedMade } from '@tin-harbor/core/contract'
import { InputError, parseInput } from '@tin-harbor/core/input'
import { addMadeIn } from '../creatives/creatives.js'
import { Ad } from '../creatives/creative-model.js'
import { MadeCreative } from '../creatives/made-creative-model.js'
import { swapAds } from '../creatives/replacing.js'
import { severalAtOnce } from '../database/several-at-once.js'
import type { Deps } from '../deps.js'
import { NotFetched, fetchPublic } from '../fetching/public-fetch.js'
import { inWorkFolder } from '../files/jail.js'
import { contentName, takeData } from '../files/library.js'
import { fitPicture } from '../files/picture-fitting.js'
import { readFacts } from '../files/reading.js'
import { AppError, conflict, invalidField } from '../http/errors.js'
import { advertiserOfLine, findLine } from '../lines/lines.js'
import type { Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { FeedItemRow, type Feed } from './feed-model.js'
import { feedView, findFeed } from './feeds.js'

const PICTURES = /^image\/(png|jpeg|webp|gif)$/
const MOST_BYTES = 12 * 1024 * 1024
const SECONDS = 20

interface Wanted {
  items: readonly number[]
  line: number | null
}
type Refused = FeedMade['refused'][number]

/**
 * Makes ads of items: each item's picture is fetched and cut for the card, its texts are the template's. An item whose ad says something
 * else by now is made anew, and takes the place of the old one on lines; what is in force goes on until it is put live again. Items of
 * which no ad can be made are told, and keep none of the others.
 */
export async function makeFeedAds(deps: Deps, actor: Actor, feedId: number, { items, line }: Wanted): Promise<FeedMade> {
  const { sequelize } = deps
  const feed = await findFeed(feedId)
  const { advertiserId } = feed
  if (line !== null && (await advertiserOfLine(line)) !== advertiserId) throw invalidField('line', 'Not a line of this advertiser.')
  if (feed.draft.template.icon === '') throw invalidField('feed.template.icon', 'Its ads need an icon: choose one of the library.')
  const rows = await FeedItemRow.findAll({ where: { feedId, id: [...new Set(items)] }, order: [['nth', 'ASC']] })
  if (rows.length < new Set(items).size) throw conflict('Some of these items are gone from the feed meanwhile; look again.')
  const refused: Refused[] = []
  const ready = await severalAtOnce(rows, async (row) => {
    if (row.state !== 'there') {
      refused.push({ item: row.id, title: row.item.title, says: 'It cannot be had now.' })
      return null
    }
    // What is as it was when its ad was made needs nothing.
    if (row.madeCreativeId !== null && row.madeAs === itemDigest(row.item)) return { row, parts: null }
    try {
      return { row, parts: await partsOf(deps, actor, feed, row) }
    } catch (error) {
      if (!(error instanceof NotFetched || error instanceof AppError || error instanceof InputError)) throw error
      refused.push({ item: row.id, title: row.item.title, says: error.message })
      return null
    }
  })
  const counts = await sequelize.transaction((transaction) =>
    keepAds(actor, { feed, line, ready: ready.flatMap((one) => one ?? []) }, transaction)
  )
  return { ...counts, refused, view: await feedView(feedId) }
}

interface Ready {
  row: FeedItemRow
  /** Null where the ad that there is does. */
  parts: object | null
}

async function keepAds(
  actor: Actor,
  { feed, line, ready }: { feed: Feed; line: number | null; ready: readonly Ready[] },
  transaction: Transaction
): Promise<Pick<FeedMade, 'made' | 'renewed' | 'put'>> {
  const { advertiserId, draft, id: feedId } = feed
  // The line before the feed's rows, as wherever ads are put on a line.
  const known = line === null ? null : await findLine(line, transaction)
  const ids: number[] = []
  let [made, renewed] = [0, 0]
  const links = new Map<number, string>()
  for (const { row, parts } of ready) {
    let creative = row.madeCreativeId
    if (parts) {
      const name = `${row.item.title}, ${draft.name}`.slice(0, 190)
      const checked = parseInput(creativeSchema, { name, kind: 'native', parts })
      const next = await MadeCreative.create({ advertiserId, ...checked, feedItemId: row.id }, { transaction })
      // What the item says now is what its ad says: only then is the new ad looked at.
      await row.update({ madeCreativeId: next.id, madeAs: itemDigest(row.item) }, { transaction })
      if (creative === null) made++
      else {
        renewed++
        const old = await Ad.findAll({ where: { madeCreativeId: creative, removed: false }, transaction })
        for (const ad of await swapAds(old, { madeCreativeId: next.id }, transaction)) await linkAd(ad, row.item.link, transaction)
      }
      creative = next.id
    }
    if (creative !== null) {
      ids.push(creative)
      links.set(creative, row.item.link)
    }
  }
  let put = 0
  if (known && ids.length > 0) {
    const on = new Set((await Ad.findAll({ where: { lineId: known.id, removed: false }, transaction })).map((ad) => ad.madeCreativeId))
    const fresh = ids.filter((one) => !on.has(one))
    put = fresh.length
    if (put > 0) {
      // Ads that were made anew may be on it too, and led on by its draft.
      await known.reload({ transaction })
      const ads = await addMadeIn(actor, { lineId: known.id, advertiserId }, fresh, transaction)
      let { ads: terms } = known.draft
      ads.forEach((ad, n) => (terms = withTerms(terms, ad, { landing: links.get(fresh[n]) })))
      await known.update({ draft: { ...known.draft, ads: terms }, version: known.version + 1 }, { transaction })
    }
  }
  await audit(actor, 'make', { kind: 'feed', id: feedId, advertiserId }, null, { name: draft.name, made, renewed, put, line }, transaction)
  return { made, renewed, put }
}

/** An ad leads to its own item. */
async function linkAd({ id, lineId }: Ad, landing: string, transaction: Transaction): Promise<void> {
  const line = await findLine(lineId, transaction)
  await line.update(
    { draft: { ...line.draft, ads: withTerms(line.draft.ads, id, { landing }) }, version: line.version + 1 },
    { transaction }
  )
}

/** The parts of an item's ad, its picture fetched and cut for the card. @throws NotFetched where there is none that fits */
async function partsOf(deps: Deps, actor: Actor, { advertiserId, draft }: Feed, { item }: FeedItemRow): Promise<object> {
  if (item.picture === '') throw new NotFetched('It has no picture.')
  const { body } = await fetchPublic(item.picture, { types: PICTURES, mostBytes: MOST_BYTES, seconds: SECONDS }).catch((error: unknown) => {
    throw error instanceof NotFetched ? new NotFetched(`Its picture: ${error.message}`) : error
  })
  const { cut, facts } = await inWorkFolder(async (folder) => {
    const path = join(folder, 'picture')
    await writeFile(path, body)
    const known = await readFacts(path, (await stat(path)).size)
    const slots = [{ shape: 'native card' as const, part: 'picture', crop: null }]
    const [made] = await fitPicture(path, known, { slots, focal: { x: 0.5, y: 0.5 } }, { signal: NEVER, onShare: () => undefined })
    return { cut: made, facts: known }
  })
  if (!cut) throw new NotFetched('No picture under the weight of the slot could be made of its picture.')
  const problem = partProblem({ kind: 'native', parts: {} }, 'picture', {
    ...facts,
    width: cut.width,
    height: cut.height,
    bytes: cut.data.length
  })
  if (problem !== null) throw new NotFetched(`Its picture: ${problem}`)
  const { file } = await takeData(deps, actor, advertiserId, {
    name: item.title,
    data: cut.data,
    made: { from: null, how: `of “${draft.name}”, cut from ${item.picture}` }
  })
  return { ...item.texts, icon: draft.template.icon, picture: contentName(file.sha256) }
}
const NEVER = new AbortController().signal
