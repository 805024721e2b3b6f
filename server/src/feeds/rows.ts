import { XMLParser, XMLValidator } from 'fast-xml-parser'
import Papa from 'papaparse'
import type { FeedRow } from '@tin-harbor/core/creative'
import type { FeedFound } from '@tin-harbor/core/contract'
import { ToldError } from '../threads/thread-errors.js'

/** Rows of a feed, and what is wrong with single ones by their place. */
export interface FeedRows {
  form: FeedFound['form']
  rows: FeedRow[]
  wrong: Map<number, string>
}

const MOST_ITEMS = 50_000
const MOST_FIELDS = 60
const DEPTH = 12
/** Names of elements of which a feed may have but one. */
const ITEMS = new Set(['item', 'entry', 'product', 'offer'])
const TEXT = '#'

type Node = string | Node[] | { [name: string]: Node }
const isElement = (node: Node | undefined): node is { [name: string]: Node } => typeof node === 'object' && !Array.isArray(node)

/** A file as text, by the mark it begins with or the encoding that it names. */
function textOf(data: Uint8Array): string {
  const head = new TextDecoder('latin1').decode(data.subarray(0, 200))
  const named = /^\s*<\?xml[^>]*\bencoding=["']([\w-]+)["']/i.exec(head)?.[1] ?? 'utf-8'
  const marked = head.startsWith('\u00ff\u00fe') ? 'utf-16le' : head.startsWith('\u00fe\u00ff') ? 'utf-16be' : named
  try {
    return new TextDecoder(marked).decode(data)
  } catch {
    throw new ToldError(`Nothing here reads the encoding “${marked}”.`)
  }
}

/** Reads RSS, Atom, other XML, or CSV; no value of it is taken for anything but text. @throws ToldError */
export function feedRows(data: Uint8Array): FeedRows {
  const text = textOf(data).replace(/^\uFEFF/, '')
  if (text.trim() === '') throw new ToldError('The feed is empty.')
  if (!/^\s*</.test(text)) return csvRows(text)
  if (/^\s*(<!doctype html|<html)/i.test(text)) throw new ToldError('It is a web page, and no feed.')
  return xmlRows(text)
}

function csvRows(text: string): FeedRows {
  const { data, errors, meta } = Papa.parse<Record<string, string>>(text, { header: true, skipEmptyLines: 'greedy', dynamicTyping: false })
  if ((meta.fields ?? []).length < 2) throw new ToldError('It is neither XML nor a table: its first line names no fields.')
  requireFew(data.length)
  const wrong = new Map<number, string>()
  for (const { row, code } of errors)
    if (row !== undefined)
      wrong.set(
        row,
        code === 'TooFewFields'
          ? 'It has fewer fields than there are names.'
          : code === 'TooManyFields'
            ? 'It has more fields than there are names.'
            : 'Its quotes do not close.'
      )
  const rows = data.map((row) =>
    Object.fromEntries(Object.entries(row).flatMap(([name, value]) => (name !== '' && typeof value === 'string' ? [[name, value]] : [])))
  )
  return { form: 'CSV', rows, wrong }
}

function requireFew(items: number): void {
  if (items > MOST_ITEMS) throw new ToldError(`A feed has at most ${MOST_ITEMS} items; this has ${items}.`)
}

const parser = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  textNodeName: TEXT,
  parseTagValue: false,
  parseAttributeValue: false,
  htmlEntities: true,
  isArray: (name) => ITEMS.has(bare(name))
})
const bare = (name: string) => name.split(':').at(-1) ?? name

function xmlRows(text: string): FeedRows {
  const head = text.slice(0, /<[a-z_]/i.exec(text)?.index ?? 0)
  // A declaration before the first element is where entities grow into gigabytes, and where other files are named.
  if (/<!ENTITY|<!DOCTYPE[^>]*\[/i.test(head)) throw new ToldError('It declares entities of its own; such a file is not read.')
  const valid = XMLValidator.validate(text, { allowBooleanAttributes: true })
  if (valid !== true) throw new ToldError(`It is no XML that can be read: line ${valid.err.line}: ${valid.err.msg}`)
  let root: Node
  try {
    root = parser.parse(text) as Node
  } catch (error) {
    throw new ToldError(`It is no XML that can be read: ${(error as Error).message.slice(0, 200)}`)
  }
  const found = itemsIn(root)
  if (!found) throw new ToldError('It has no list of items.')
  requireFew(found.items.length)
  const names = isElement(root) ? Object.keys(root).map(bare) : []
  const form = names.includes('rss') ? 'RSS' : names.includes('feed') && found.name === 'entry' ? 'Atom' : 'XML'
  return { form, rows: found.items.map(rowOf), wrong: new Map() }
}

/** The longest list of elements. */
function itemsIn(root: Node): { name: string; items: Node[] } | null {
  let best: { name: string; items: Node[] } | null = null
  const look = (node: Node, depth: number) => {
    if (!isElement(node) || depth > DEPTH) return
    for (const [name, value] of Object.entries(node)) {
      if (Array.isArray(value)) {
        if (value.some(isElement) && value.length > (best?.items.length ?? 0)) best = { name: bare(name), items: value }
      } else look(value, depth + 1)
    }
  }
  look(root, 0)
  return best
}

/** An item as texts by names: what lies in another element by both, an attribute after `@`; of several alike the first. */
function rowOf(item: Node): FeedRow {
  const row: Record<string, string> = {}
  const add = (name: string, value: string) => {
    if (Object.keys(row).length < MOST_FIELDS && value.trim() !== '') row[name] ??= value.trim()
  }
  const walk = (node: Node, name: string, depth: number) => {
    if (typeof node === 'string') add(name, node)
    else if (Array.isArray(node)) for (const one of node) walk(one, name, depth)
    else if (depth < DEPTH) {
      // Of Atom's links each is of a kind: where nothing is said, the item's own page.
      const { '@rel': rel, '@href': href } = node
      if (typeof href === 'string') return add(rel === undefined || rel === 'alternate' ? name : String(rel), href)
      for (const [own, value] of Object.entries(node))
        walk(value, own === TEXT ? name : own.startsWith('@') ? `${name}${own}` : name === '' ? own : `${name}/${own}`, depth + 1)
    }
  }
  walk(item, '', 0)
  return row
}
