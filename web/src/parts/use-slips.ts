import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import type { SlipItem } from '@tin-harbor/core/buying'
import type { SlipView, SlipsView, StagedForecast, StagedLine } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import { useManifest } from '@/stores/manifest'

export const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`
const keyOf = (line: number, field: string) => `${line} ${field}`
const token = () => `slip-${crypto.getRandomValues(new Uint32Array(3)).join('-')}`

/** Edits of live lines that are not live yet, the slips that hold them, and what can be done with them. */
export function useSlips() {
  const manifest = useManifest()
  const slips = shallowRef<SlipsView | null>(null)
  const said = ref('')
  const { isBusy, error, attempt: tryTo } = useAttempt()
  const isSure = ref(false)
  /** Edits that are left out of what goes live, as `line field`. */
  const leftOut = ref<ReadonlySet<string>>(new Set())

  /** A day of each line with its edits; without a line while it is being forecast. */
  const expected = shallowRef(new Map<number, StagedForecast>())
  let loads = 0
  async function loadForecasts(staged: readonly StagedLine[]): Promise<void> {
    const own = ++loads
    expected.value = new Map()
    if (staged.length === 0) return
    const told = await api.stagedForecasts().catch(() => ({ expected: staged.map(({ line }) => ({ line, before: null, after: null })) }))
    if (own === loads) expected.value = new Map(told.expected.map((one) => [one.line, one]))
  }
  async function load(): Promise<void> {
    try {
      slips.value = await api.slips()
      error.value = null
      void loadForecasts(slips.value.staged)
    } catch (failure) {
      error.value = (failure as ApiError).message
    }
  }
  onMounted(load)

  const opened = computed(() => slips.value?.slips.filter((slip) => slip.state === 'open') ?? [])
  /** Edits that a slip of their own holds. */
  const held = computed(
    () => new Set(opened.value.flatMap(({ items }) => items.flatMap(({ line, fields }) => fields.map((field) => keyOf(line, field)))))
  )
  const free = computed(() =>
    (slips.value?.staged ?? [])
      .map((staged) => ({ ...staged, changes: staged.changes.filter(({ field }) => !held.value.has(keyOf(staged.line, field))) }))
      .filter(({ changes }) => changes.length > 0)
  )
  const isIn = (line: number, field: string) => !leftOut.value.has(keyOf(line, field))
  const chosen = computed<SlipItem[]>(() =>
    free.value
      .map(({ line, changes }) => ({ line, fields: changes.map(({ field }) => field).filter((field) => isIn(line, field)) }))
      .filter(({ fields }) => fields.length > 0)
  )
  watch(chosen, () => (isSure.value = false))

  async function attempt(what: () => Promise<string>): Promise<void> {
    said.value = ''
    await tryTo(async () => {
      said.value = await what()
      await Promise.all([load(), manifest.load()])
    })
    isSure.value = false
  }

  return {
    slips,
    error,
    said,
    isBusy,
    isSure,
    expected,
    opened,
    gone: computed(() => slips.value?.slips.filter((slip) => slip.state === 'live') ?? []),
    free,
    chosen,
    isIn,
    toggle(line: number, field: string): void {
      const key = keyOf(line, field)
      leftOut.value = new Set(leftOut.value.has(key) ? [...leftOut.value].filter((one) => one !== key) : [...leftOut.value, key])
    },
    live: (what: Parameters<typeof api.slipLive>[0]) =>
      attempt(async () => {
        const { lines } = await api.slipLive(what, token())
        return `${plural(lines, 'line')} changed with the next market hour; all can be taken back as one.`
      }),
    move: (name: string) =>
      attempt(async () => {
        await api.createSlip(name, chosen.value)
        return 'They wait on a slip of their own.'
      }),
    takeBack: (slip: SlipView) =>
      attempt(async () => {
        await api.takeBackSlip(slip.id)
        return `“${slip.name}” is taken back: what was in force before it is again from the next market hour.`
      }),
    drop: (slip: SlipView) =>
      attempt(async () => {
        await api.dropSlip(slip.id)
        return 'Its edits are on the common slip again.'
      })
  }
}
