import { computed, onMounted, watch, type Ref } from 'vue'
import { withChanges, type FixableFinding, type LineDraft } from '@tin-harbor/core/buying'
import type { Change } from '@tin-harbor/core/forecast'
import { withFix } from '@tin-harbor/core/preflight'
import { api } from '@/api'
import { provideLineEdit } from '@/composables/line-edit'
import { useForecast } from '@/composables/use-forecast'
import { useLeaveGuard } from '@/composables/use-leave-guard'
import { useLineDraft } from '@/composables/use-line-draft'
import { useOthersOn } from '@/composables/use-others-on'
import { usePreflight } from '@/composables/use-preflight'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'

/**
 * A line as it is edited: its draft, the forecast and the findings that follow it, and every way in which it is changed. What stands
 * below the page is given the draft by `provideLineEdit`.
 */
export function useLineEditing(id: number) {
  const manifest = useManifest()
  const market = useMarket()
  const session = useSession()
  const edit = useLineDraft(() => void manifest.load())
  const { line, draft, problems, unreadable, saving } = edit
  const forecast = useForecast()
  const { findings, check } = usePreflight(id, draft, forecast.figures, forecast.advised)
  const mayDraft = computed(() => session.may('draft'))
  const campaign = computed(() => (line.value ? manifest.campaignOf(line.value.campaignId) : undefined))

  function askForecast(): void {
    if (!line.value || !draft.value) return
    forecast.ask(line.value.campaignId, id, draft.value)
    // What stands in the way of a draft is for who may change it.
    if (mayDraft.value) check()
  }
  function onEdited(): void {
    if (edit.edited()) askForecast()
  }
  function change(edit_: (draft: LineDraft) => void): void {
    if (!draft.value) return
    edit_(draft.value)
    onEdited()
  }
  /** Another draft in place of this one; undo takes it back. */
  function replace(next: (draft: LineDraft) => LineDraft): void {
    if (!draft.value) return
    draft.value = next(draft.value)
    onEdited()
  }
  function onProblem(field: string, message: string | null): void {
    const { [field]: _, ...others } = unreadable.value
    unreadable.value = message === null ? others : { ...others, [field]: message }
    onEdited()
  }
  provideLineEdit({
    draft: draft as Ref<LineDraft>,
    problems,
    campaign,
    disabled: computed(() => !mayDraft.value),
    figures: forecast.figures,
    sieve: forecast.sieve,
    change,
    onProblem
  })

  /** The mark on the ladder: figures follow it as it goes, the draft is saved when it rests. */
  function onBid(bidMicros: number, settled: boolean): void {
    if (!draft.value || !line.value) return
    const next = withChanges(draft.value, [{ kind: 'bid', micros: bidMicros }])
    if (settled) replace(() => next)
    else forecast.ask(line.value.campaignId, id, next)
  }
  /** The sieve in another order; what matches stays the same. */
  const onReorder = (from: number, to: number) =>
    change((d) => {
      const all = [...d.targeting.restrictions]
      all.splice(to, 0, ...all.splice(from, 1))
      d.targeting = { restrictions: all }
    })

  /** Who else has this line open; what they saved is taken over at once where nothing of ours waits. */
  const others = useOthersOn(id, async (version) => {
    if (!line.value || version <= line.value.version || saving.value !== 'saved') return
    edit.refresh(await api.line(id))
    askForecast()
  })

  onMounted(async () => {
    await edit.load(id)
    askForecast()
  })
  watch(
    () => market.tapeReady,
    (ready) => ready && askForecast()
  )
  watch(
    () => market.run.running,
    async (running) => {
      if (running || !line.value) return
      edit.refresh(await api.line(id))
      askForecast()
    }
  )
  useLeaveGuard(edit)

  return {
    ...edit,
    forecast,
    findings,
    campaign,
    others,
    mayDraft,
    mayLive: computed(() => session.may('live')),
    askForecast,
    change,
    onBid,
    onReorder,
    /** What a finding offers, done with one click. */
    onFix: ({ fix }: FixableFinding) => fix && replace((was) => withFix(was, fix)),
    /** What the panel offers: an edit as any other. */
    onChange: (changes: readonly Change[]) => replace((was) => withChanges(was, changes)),
    undo: () => (edit.undo(), askForecast()),
    redo: () => (edit.redo(), askForecast()),
    async settle(mine: boolean): Promise<void> {
      await edit.settle(mine)
      askForecast()
    }
  }
}
export type LineEditing = ReturnType<typeof useLineEditing>
