import { inject, provide, type ComputedRef, type InjectionKey, type Ref } from 'vue'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { CampaignView } from '@tin-harbor/core/contract'
import type { MainFigures, Sieve } from '@tin-harbor/core/forecast'

/** The line that a page edits, for its clauses and phrases. */
export interface LineEdit {
  draft: Ref<LineDraft>
  problems: ComputedRef<Record<string, string>>
  campaign: ComputedRef<CampaignView | undefined>
  disabled: ComputedRef<boolean>
  figures: Ref<MainFigures | null>
  sieve: Ref<Sieve | null>
  /** Changes the draft, and saves and forecasts it. */
  change: (edit: (draft: LineDraft) => void) => void
  /** What could not be read at all in a field; null once it can. */
  onProblem: (field: string, message: string | null) => void
}

const key: InjectionKey<LineEdit> = Symbol('line edit')
export const provideLineEdit = (edit: LineEdit) => provide(key, edit)

export function useLineEdit(): LineEdit {
  const edit = inject(key)
  if (!edit) throw new Error('There is no line to edit here.')
  return edit
}

/** What is wrong with fields of the line that a page edits: with one itself, or anywhere below it where it has rows of its own. */
export function useFieldProblems() {
  const { problems } = useLineEdit()
  return {
    problem: (field: string): string | undefined => problems.value[field],
    problemUnder: (field: string): string | undefined =>
      Object.entries(problems.value).find(([path]) => path === field || path.startsWith(`${field}[`) || path.startsWith(`${field}.`))?.[1]
  }
}
