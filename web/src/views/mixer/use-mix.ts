import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import {
  TEXTS,
  cellsOf,
  cutText,
  mergedMix,
  mixFindings,
  mixSchema,
  partProblem,
  pastedParts,
  type Axis,
  type Mix,
  type MixClash,
  type MixPart
} from '@tin-harbor/core/creative'
import { InputError, parseInput } from '@tin-harbor/core/input'
import type { FileView, MixView } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { useSaving, type Saving } from '@/composables/use-saving'

/** A matrix that is edited: saved as it is typed, over what somebody else does in it meanwhile. */
export function useMix(id: Ref<number>) {
  const view = shallowRef<MixView | null>(null)
  const mix = ref<Mix | null>(null)
  const files = shallowRef<FileView[]>([])
  const error = ref<string | null>(null)
  /** What cannot be saved, or was refused. */
  const refused = ref<string[]>([])
  /** Parts that somebody else wrote at the same time. */
  const clashes = shallowRef<MixClash[]>([])
  /** What was saved last, as it was read: what either changed is told apart by it. */
  let saved: Mix | null = null

  function take(next: MixView): void {
    view.value = next
    saved = next.mix
  }
  const copied = (one: Mix): Mix => JSON.parse(JSON.stringify(one)) as Mix
  async function load(): Promise<void> {
    try {
      const found = await api.mix(id.value)
      take(found)
      mix.value = copied(found.mix)
      error.value = null
      files.value = await api.files(found.advertiserId)
    } catch (failure) {
      error.value = (failure as Error).message
    }
  }

  async function attempt(): Promise<Saving> {
    if (!view.value || !mix.value || !saved) return 'saved'
    refused.value = []
    const mine = copied(mix.value)
    try {
      parseInput(mixSchema, mine)
      take(await api.saveMix(id.value, view.value.version, mine))
      return JSON.stringify(mine) === JSON.stringify(mix.value) ? 'saved' : 'waiting'
    } catch (failure) {
      if (failure instanceof InputError) refused.value = failure.issues.map(({ message }) => message)
      else if (failure instanceof ApiError && failure.code === 'stale') return over(saved, mine)
      else if (failure instanceof ApiError && failure.status < 500) refused.value = failure.messages
      else return 'away'
      return 'refused'
    }
  }
  /** Somebody else saved it: theirs is read, and what was done here is done over it. */
  async function over(base: Mix, mine: Mix): Promise<Saving> {
    const theirs = await api.mix(id.value)
    const merged = mergedMix(base, mine, theirs.mix)
    take(theirs)
    mix.value = merged.mix
    clashes.value = merged.clashes
    return attempt()
  }
  const { saving, soon, save, saveAll } = useSaving(attempt)
  function change(edit: (mix: Mix) => void): void {
    if (!mix.value) return
    edit(mix.value)
    soon()
  }
  watch(id, load, { immediate: true })

  const cells = computed(() => (mix.value ? cellsOf(mix.value) : []))
  const findings = computed(() => (mix.value ? mixFindings(mix.value) : []))
  /** Puts lines on an axis, each as a part; those that it has already are not there twice. */
  const add = (axis: Axis, lines: string) => change((m) => (m[axis] = [...m[axis], ...pastedParts(lines, m[axis], newKey)]))
  const write = (axis: Axis, key: string, next: Partial<MixPart>) =>
    change((m) => {
      m[axis] = m[axis].map((part) => (part.key === key ? { ...part, ...next } : part))
    })
  const removePart = (axis: Axis, key: string) =>
    change((m) => {
      m[axis] = m[axis].filter((part) => part.key !== key)
      m.struck = m.struck.filter((cell) => !cell.split(' ').includes(key))
    })
  /** What is found in a part, or in what is common. */
  const found = (axis: Axis | 'common', key: string) => findings.value.filter((one) => one.axis === axis && one.key === key)
  const byHash = computed(() => new Map(files.value.map((file) => [`sha256:${file.sha256}`, file])))
  const urlOf = (hash: string | undefined) => {
    const file = byHash.value.get(hash ?? '')
    return file ? api.fileUrl(file.id) : null
  }
  const parts = { add, write, remove: removePart, found, urlOf }
  return { ...parts, view, mix, files, error, refused, clashes, saving, cells, load, take, change, save, saveAll }
}
export type MixEditing = ReturnType<typeof useMix>

/** A matrix to begin with: what can be known is filled in. */
export function newMix(advertiser: string, number: number, files: readonly FileView[]): Mix {
  const icon = files.find(
    (file) => !file.retired && file.medium === 'picture' && partProblem({ kind: 'native', parts: {} }, 'icon', file.facts) === null
  )
  return {
    name: `Mix ${number}`,
    kind: 'native',
    headlines: [],
    pictures: [],
    texts: [],
    common: { brand: cutText(advertiser, TEXTS.native.brand.most), button: 'See more', icon: icon ? `sha256:${icon.sha256}` : '' },
    struck: []
  }
}

/** A part's key: short, and nobody else's. */
export const newKey = () => crypto.randomUUID().replace(/-/g, '').slice(0, 8)
