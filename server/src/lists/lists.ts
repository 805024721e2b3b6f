import type { Transaction } from 'sequelize'
import { LIST_KINDS, listSchema, parseInput, type LineDraft, type ListKind, type SavedList as ListDraft } from '@tin-harbor/core/buying'
import { positionsOf } from '@tin-harbor/core/market'
import type { ListView } from '@tin-harbor/core/contract'
import { conflict, invalidField, notAllowed, stale, unknownObject } from '../http/errors.js'
import { Campaign } from '../campaigns/campaign-model.js'
import { Line } from '../lines/line-model.js'
import { SavedList } from './list-model.js'
import type { Owner } from '../http/registry.js'
import { maySee, type Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { placementName, type Catalogue } from '../market/catalogue.js'
import type { Deps } from '../deps.js'

type Needs = Pick<Deps, 'sequelize' | 'catalogue'>

/** Lists of the organisation are everybody's; those of an advertiser belong to who sees it. */
const sees = (actor: Actor, { organisationId, advertiserId }: Pick<SavedList, 'organisationId' | 'advertiserId'>) =>
  organisationId === actor.organisationId && (advertiserId === null || maySee(actor, advertiserId))

/** A line whose draft may follow a list, and whose it is. */
interface Follower {
  line: Line
  advertiserId: number
}

async function allLines(transaction?: Transaction): Promise<Follower[]> {
  const advertisers = new Map(
    (await Campaign.findAll({ attributes: ['id', 'advertiserId'], transaction })).map((campaign) => [campaign.id, campaign.advertiserId])
  )
  return (await Line.findAll({ order: [['id', 'ASC']], transaction })).map((line) => ({
    line,
    advertiserId: advertisers.get(line.campaignId) as number
  }))
}

const following = (lines: readonly Follower[], id: number) =>
  lines.filter(({ line }) => line.draft.targeting.restrictions.some((restriction) => restriction.list === id))

/** Names of numbered values; other values say themselves what they are. */
function namesOf(catalogue: Catalogue, kind: string, values: readonly string[]): string[] {
  const { properties } = catalogue.inventory
  const { property, placement } = positionsOf(catalogue.inventory)
  if (kind === 'properties') return values.map((value) => properties[property.get(value) ?? -1]?.name ?? value)
  if (kind !== 'placements') return []
  return values.map((value) => {
    const known = placement.get(value)
    if (known === undefined) return value
    const named = placementName(catalogue, known)
    return `${named.property}, ${named.position}`
  })
}

function viewOf(
  { id, advertiserId, name, kind, contents: { values, group }, version }: SavedList,
  actor: Actor,
  catalogue: Catalogue,
  lines: readonly Follower[]
): ListView {
  return {
    id,
    advertiserId,
    name,
    kind: kind as ListView['kind'],
    values,
    names: namesOf(catalogue, kind, values),
    group: group ?? null,
    version,
    usedBy: following(lines, id)
      .filter((follower) => maySee(actor, follower.advertiserId))
      .map(({ line }) => ({ line: line.id, name: line.draft.name }))
  }
}

/** Whose a list is. */
export async function ownerOfList(id: number): Promise<Owner> {
  const list = await SavedList.findByPk(id)
  if (!list) throw unknownObject('list')
  return list.advertiserId ?? { organisation: list.organisationId }
}

export async function listLists(actor: Actor, catalogue: Catalogue): Promise<ListView[]> {
  const lines = await allLines()
  return (await SavedList.findAll({ where: { organisationId: actor.organisationId }, order: [['name', 'ASC']] }))
    .filter((list) => sees(actor, list))
    .map((list) => viewOf(list, actor, catalogue, lines))
}

export async function createSavedList(
  { sequelize, catalogue }: Needs,
  actor: Actor,
  advertiserId: number | null,
  draft: ListDraft
): Promise<ListView> {
  const { organisationId } = actor
  const { name, kind, values, group } = parseInput(listSchema, draft)
  const list = await sequelize.transaction(async (transaction) => {
    const made = await SavedList.create(
      { organisationId, advertiserId, name, kind, contents: { values: [...new Set(values)], group } },
      { transaction }
    )
    await audit(actor, 'create', { kind: 'list', id: made.id, advertiserId }, null, draft, transaction)
    return made
  })
  return viewOf(list, actor, catalogue, [])
}

/** What somebody changed of a list: its name, from which to which, and values that came and went. */
export interface ListChange {
  id: number
  version: number
  rename: { from: string; to: string } | null
  add: string[]
  remove: string[]
}

/** The list that a user may change, locked, and the lines that follow it: none of them of an advertiser that the user does not see. */
async function listToChange(actor: Actor, id: number, transaction: Transaction): Promise<{ list: SavedList; followers: Follower[] }> {
  const list = await SavedList.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE })
  if (!list || !sees(actor, list)) throw unknownObject('list')
  // Their drafts are read again under a lock, in the order of their numbers: one that is being saved is not written over.
  const followers: Follower[] = []
  for (const { line, advertiserId } of following(await allLines(transaction), id)) {
    const locked = await Line.findByPk(line.id, { transaction, lock: transaction.LOCK.UPDATE })
    if (locked) followers.push(...following([{ line: locked, advertiserId }], id))
  }
  if (followers.some(({ advertiserId }) => !maySee(actor, advertiserId)))
    throw notAllowed('Lines of an advertiser that you do not see follow this list; somebody who sees them must change it.')
  return { list, followers }
}

/**
 * Saves a change. What others added or took away meanwhile stays: values are merged; a name that somebody else changed too is
 * asked about, and nothing is saved. Drafts of lines that follow the list follow at once; what is live goes on as it was until
 * the line is put live again.
 */
export async function saveList(
  { sequelize, catalogue }: Needs,
  actor: Actor,
  { id, version, rename, add, remove }: ListChange
): Promise<ListView & { merged: boolean }> {
  const saved = await sequelize.transaction(async (transaction) => {
    const { list, followers } = await listToChange(actor, id, transaction)
    if (rename && rename.from !== list.name) throw stale('list', viewOf(list, actor, catalogue, followers))
    const merged = list.version !== version
    const gone = new Set(remove)
    const values = [...new Set([...list.contents.values.filter((value) => !gone.has(value)), ...add])]
    const { name } = parseInput(listSchema, { name: rename?.to ?? list.name, kind: list.kind, values, group: list.contents.group ?? null })
    if (values.length === 0 && followers.length > 0)
      throw conflict(`The line "${followers[0].line.draft.name}" follows this list: it cannot become empty.`)
    await audit(
      actor,
      'save',
      { kind: 'list', id, advertiserId: list.advertiserId },
      { name: list.name, values: list.contents.values },
      { name, add, remove },
      transaction
    )
    await list.update({ name, contents: { values, group: list.contents.group }, version: list.version + 1 }, { transaction })
    for (const { line, advertiserId } of followers) {
      const was = line.draft
      const draft: LineDraft = {
        ...was,
        targeting: {
          restrictions: was.targeting.restrictions.map((restriction) =>
            restriction.list === id ? { ...restriction, values } : restriction
          )
        }
      }
      await line.update({ draft, version: line.version + 1 }, { transaction })
      await audit(actor, 'follow', { kind: 'line', id: line.id, advertiserId }, was, draft, transaction)
    }
    return { list, merged, followers }
  })
  return { ...viewOf(saved.list, actor, catalogue, saved.followers), merged: saved.merged }
}

export async function deleteList({ sequelize }: Pick<Needs, 'sequelize'>, actor: Actor, id: number): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const { list, followers } = await listToChange(actor, id, transaction)
    if (followers.length > 0)
      throw conflict(
        `It is followed by ${followers
          .map(({ line }) => `"${line.draft.name}"`)
          .slice(0, 3)
          .join(', ')}; copy its values there first.`
      )
    await audit(
      actor,
      'delete',
      { kind: 'list', id, advertiserId: list.advertiserId },
      { name: list.name, values: list.contents.values },
      null,
      transaction
    )
    await list.destroy({ transaction })
  })
}

/**
 * Gives restrictions that follow a list its values as they are now.
 * @throws a field error for a list that is not there for this user, or that holds other things than the restriction is about
 */
export async function withListValues(actor: Actor, draft: LineDraft, transaction: Transaction): Promise<LineDraft> {
  if (draft.targeting.restrictions.every((restriction) => restriction.list === undefined)) return draft
  const restrictions = await Promise.all(
    draft.targeting.restrictions.map(async (restriction, n) => {
      if (restriction.list === undefined) return restriction
      const list = await SavedList.findByPk(restriction.list, { transaction, lock: transaction.LOCK.SHARE })
      const field = `targeting.restrictions[${n}].list`
      if (!list || !sees(actor, list)) throw invalidField(field, 'There is no such list.')
      if (list.kind === 'group' || LIST_KINDS[list.kind as ListKind] !== restriction.dimension)
        throw invalidField(field, `The list "${list.name}" holds ${list.kind}, not what is restricted by ${restriction.dimension}.`)
      if (list.contents.values.length === 0) throw invalidField(field, `The list "${list.name}" is empty.`)
      return { ...restriction, values: list.contents.values }
    })
  )
  return { ...draft, targeting: { restrictions } }
}
