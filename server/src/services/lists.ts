import type { Transaction } from 'sequelize'
import { LIST_KINDS, listSchema, parseInput, readPaste, type LineDraft, type ListKind, type ListView, type PasteRead, type SavedList as ListDraft } from '@tin-harbor/core/buying'
import { conflict, notAllowed, stale, unknownObject } from '../errors.js'
import { Campaign, Line, SavedList } from '../models/index.js'
import { maySee, type Actor } from '../security/sessions.js'
import { audit } from './audit.js'
import type { Catalogue } from './catalogue.js'
import type { Deps } from './deps.js'

type Needs = Pick<Deps, 'sequelize' | 'catalogue'>

const sees = (actor: Actor, advertiserId: number | null) => advertiserId === null || maySee(actor, advertiserId)

/** Lines whose drafts follow a list. */
async function followers(id: number, transaction?: Transaction, among?: readonly Line[]): Promise<Line[]> {
  const lines = among ?? (await Line.findAll({ order: [['id', 'ASC']], transaction }))
  return lines.filter((line) => line.draft.targeting.restrictions.some((restriction) => restriction.list === id))
}

/** Names of numbered values. */
function namesOf({ inventory }: Catalogue, kind: string, values: readonly string[]): string[] {
  if (kind === 'properties') return values.map((value) => inventory.properties[Number(value)]?.name ?? `No. ${value}`)
  if (kind === 'placements') return values.map((value) => { const placement = inventory.placements[Number(value)]; return placement ? `${inventory.properties[placement.property].name}, ${placement.position}` : `No. ${value}` })
  return []
}

async function viewOf(list: SavedList, actor: Actor, catalogue: Catalogue, among?: readonly Line[]): Promise<ListView> {
  const lines = await followers(list.id, undefined, among)
  const campaigns = new Map((await Campaign.findAll({ where: { id: lines.map((line) => line.campaignId) } })).map((campaign) => [campaign.id, campaign.advertiserId]))
  return {
    id: list.id, advertiserId: list.advertiserId, name: list.name, kind: list.kind as ListView['kind'], values: list.contents.values, names: namesOf(catalogue, list.kind, list.contents.values), group: list.contents.group ?? null, version: list.version,
    usedBy: lines.filter((line) => maySee(actor, campaigns.get(line.campaignId) ?? 0)).map((line) => ({ line: line.id, name: line.draft.name }))
  }
}

export async function listLists(actor: Actor, catalogue: Catalogue): Promise<ListView[]> {
  const lists = (await SavedList.findAll({ order: [['name', 'ASC']] })).filter((list) => sees(actor, list.advertiserId))
  const lines = await Line.findAll({ order: [['id', 'ASC']] })
  return Promise.all(lists.map((list) => viewOf(list, actor, catalogue, lines)))
}

export async function createSavedList({ sequelize, catalogue }: Needs, actor: Actor, advertiserId: number | null, draft: ListDraft): Promise<ListView> {
  if (!sees(actor, advertiserId)) throw notAllowed('You do not see this advertiser.')
  const { name, kind, values, group } = parseInput(listSchema, draft)
  const list = await sequelize.transaction(async (transaction) => {
    const made = await SavedList.create({ advertiserId, name, kind, contents: { values: [...new Set(values)], group } }, { transaction })
    await audit(actor, 'create', { kind: 'list', id: made.id, advertiserId }, null, draft, transaction)
    return made
  })
  return viewOf(list, actor, catalogue)
}

/** What somebody changed of a list: its name, and values that came and went. */
export interface ListChange {
  id: number
  version: number
  name: string
  add: string[]
  remove: string[]
}

/**
 * Saves a change. What others added or took away meanwhile stays: values are merged, a name that both changed is asked about.
 * Drafts of lines that follow the list follow at once; what is live goes on as it was until the line is put live again.
 */
export async function saveList({ sequelize, catalogue }: Needs, actor: Actor, { id, version, name, add, remove }: ListChange): Promise<ListView & { merged: boolean }> {
  const saved = await sequelize.transaction(async (transaction) => {
    const list = await SavedList.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE })
    if (!list || !sees(actor, list.advertiserId)) throw unknownObject('list')
    const merged = list.version !== version
    if (merged && name !== list.name && add.length + remove.length === 0) throw stale('list', await viewOf(list, actor, catalogue))
    const gone = new Set(remove)
    const values = [...new Set([...list.contents.values.filter((value) => !gone.has(value)), ...add])]
    const draft = parseInput(listSchema, { name: merged ? list.name : name, kind: list.kind, values, group: list.contents.group ?? null })
    const was = { name: list.name, values: list.contents.values }
    await list.update({ name: draft.name, contents: { values, group: list.contents.group }, version: list.version + 1 }, { transaction })
    for (const line of await followers(id, transaction)) {
      if (values.length === 0) throw conflict(`The line "${line.draft.name}" follows this list: it cannot become empty.`)
      const next: LineDraft = { ...line.draft, targeting: { restrictions: line.draft.targeting.restrictions.map((restriction) => (restriction.list === id ? { ...restriction, values } : restriction)) } }
      await line.update({ draft: next, version: line.version + 1 }, { transaction })
    }
    await audit(actor, 'save', { kind: 'list', id, advertiserId: list.advertiserId }, was, { name: draft.name, add, remove }, transaction)
    return { list, merged }
  })
  return { ...(await viewOf(saved.list, actor, catalogue)), merged: saved.merged }
}

export async function deleteList({ sequelize }: Pick<Needs, 'sequelize'>, actor: Actor, id: number): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const list = await SavedList.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE })
    if (!list || !sees(actor, list.advertiserId)) throw unknownObject('list')
    const used = await followers(id, transaction)
    if (used.length > 0) throw conflict(`It is followed by ${used.map((line) => `"${line.draft.name}"`).slice(0, 3).join(', ')}; copy its values there first.`)
    await audit(actor, 'delete', { kind: 'list', id, advertiserId: list.advertiserId }, { name: list.name, values: list.contents.values }, null, transaction)
    await list.destroy({ transaction })
  })
}

/** Reads a pasted text for a kind of list, and says what each value is called. */
export function readForList({ inventory }: Catalogue, kind: ListKind, text: string, has: readonly string[]): PasteRead {
  return readPaste(kind, text, inventory, has)
}

export const LIST_KIND_NAMES = Object.keys(LIST_KINDS) as ListKind[]
