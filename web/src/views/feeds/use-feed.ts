import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { TEXTS, cutText, feedSchema, partProblem, type Feed } from '@tin-harbor/core/creative'
import { InputError, parseInput } from '@tin-harbor/core/input'
import type { FeedItemView, FeedView, FileView } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import type { Saving } from '@/composables/use-saving'

export const SHOWS = {
  wanted: 'that are wanted',
  all: 'all of them',
  ads: 'that have an ad',
  changed: 'that say something else than their ad',
  out: 'that are out of stock',
  gone: 'that are gone',
  broken: 'that make no ad any more'
} as const
export type Show = keyof typeof SHOWS

const copied = (one: Feed): Feed => JSON.parse(JSON.stringify(one)) as Feed

/** A feed that is edited: what is changed of it is saved when it is read anew by it. */
export function useFeed(id: Ref<number>) {
  const view = shallowRef<FeedView | null>(null)
  const feed = ref<Feed | null>(null)
  const files = shallowRef<FileView[]>([])
  const items = shallowRef<FeedItemView[]>([])
  const count = ref(0)
  const show = ref<Show>('wanted')
  const error = ref<string | null>(null)
  /** What is wrong, by the field. */
  const refused = ref<Readonly<Record<string, string>>>({})
  const isBusy = ref(false)

  const isChanged = computed(() => view.value !== null && JSON.stringify(view.value.feed) !== JSON.stringify(feed.value))
  const saving = computed<Saving>(() => (Object.keys(refused.value).length > 0 ? 'refused' : isChanged.value ? 'waiting' : 'saved'))

  function take(next: FeedView): void {
    view.value = next
    feed.value = copied(next.feed)
  }
  async function load(): Promise<void> {
    try {
      take(await api.feed(id.value))
      files.value = await api.files(view.value?.advertiserId ?? 0)
      await loadItems()
      error.value = null
    } catch (failure) {
      error.value = (failure as Error).message
    }
  }
  /** @param more those after the ones that are there */
  async function loadItems(more = false): Promise<void> {
    const wanted = show.value
    const found = await api.feedItems(id.value, wanted, more ? items.value.length : 0)
    if (wanted !== show.value) return
    items.value = more ? [...items.value, ...found.items] : found.items
    count.value = found.count
  }
  /** Reads the feed anew, by what is changed here where something is. */
  async function read(): Promise<void> {
    if (!view.value || !feed.value || isBusy.value) return
    isBusy.value = true
    refused.value = {}
    try {
      const mine = copied(feed.value)
      if (isChanged.value) parseInput(feedSchema, mine)
      const next = isChanged.value ? await api.saveFeed(id.value, view.value.version, mine) : await api.readFeed(id.value)
      view.value = next
      // What was typed meanwhile stays.
      if (JSON.stringify(mine) === JSON.stringify(feed.value)) feed.value = copied(next.feed)
      await loadItems()
    } catch (failure) {
      refused.value = problemsOf(failure)
    } finally {
      isBusy.value = false
    }
  }
  watch(id, load, { immediate: true })
  watch(show, () => void loadItems())
  return { view, feed, files, items, count, show, error, refused, isBusy, isChanged, saving, save: read, take, load, loadItems, read }
}
export type FeedEditing = ReturnType<typeof useFeed>

/** What was refused, by the field; what is of none stands under an empty name. */
function problemsOf(failure: unknown): Record<string, string> {
  if (failure instanceof InputError || (failure instanceof ApiError && failure.issues.length > 0))
    return Object.fromEntries(failure.issues.map(({ field, message }) => [field.replace(/^feed\./, ''), message]))
  return { '': (failure as Error).message }
}

/** A feed to begin with: what is what in it is guessed when it is read. */
export function newFeed(advertiser: string, address: string, number: number, files: readonly FileView[]): Feed {
  const icon = files.find(
    (file) => !file.retired && file.medium === 'picture' && partProblem({ kind: 'native', parts: {} }, 'icon', file.facts) === null
  )
  return {
    name: `Feed ${number}`,
    address,
    fields: { key: '', title: '', text: '', link: '', picture: '', price: '', stock: '' },
    template: {
      headline: '{title}',
      longHeadline: '{title} {price}',
      text: '{text}',
      button: 'See it',
      brand: cutText(advertiser, TEXTS.native.brand.most),
      icon: icon ? `sha256:${icon.sha256}` : ''
    },
    which: { words: '', least: null, most: null },
    changed: 'goes on'
  }
}
