import { computed, ref } from 'vue'
import { HOURS_PER_WEEK, type HourPlan } from '@tin-harbor/core/pricing'

/** An hour that bids as the line does, in thousandths. */
export const OPEN = 1000

interface Painted {
  hours: HourPlan | null
  disabled: boolean
  multipliers?: boolean
}

/**
 * Hours of a week that are painted with a brush: by the pointer over them, or named ones at once.
 * @param change is given the hours as they are then; null where all bid as the line does
 */
export function useHourPaint(grid: Painted, change: (hours: HourPlan | null) => void) {
  /** While painting: what is laid down, and the grid as it becomes. */
  const paint = ref<{ value: number; perMille: number[] } | null>(null)
  const perMille = computed(() => paint.value?.perMille ?? grid.hours?.perMille ?? new Array<number>(HOURS_PER_WEEK).fill(OPEN))
  /** What is laid down: per mille of the bid. */
  const brush = ref(0)

  function set(next: number[]): void {
    const clock = grid.hours?.clock ?? 'viewer'
    change(next.every((value) => value === OPEN) ? null : { clock, perMille: next })
  }
  /** The brush, or as bid again where all of them have its value already. */
  function laid(hours: readonly number[]): number {
    if (hours.every((hour) => perMille.value[hour] === brush.value)) return OPEN
    if (grid.multipliers) return brush.value
    return hours.every((hour) => perMille.value[hour] > 0) ? 0 : OPEN
  }

  return {
    brush,
    perMille,
    set,
    begin(hour: number): void {
      if (grid.disabled) return
      const next = [...perMille.value]
      const value = laid([hour])
      next[hour] = value
      paint.value = { value, perMille: next }
    },
    over(hour: number): void {
      if (!paint.value || paint.value.perMille[hour] === paint.value.value) return
      const next = [...paint.value.perMille]
      next[hour] = paint.value.value
      paint.value = { ...paint.value, perMille: next }
    },
    end(): void {
      if (!paint.value) return
      const { perMille: next } = paint.value
      paint.value = null
      set(next)
    },
    toggle(hours: readonly number[]): void {
      if (grid.disabled) return
      const next = [...perMille.value]
      const value = laid(hours)
      for (const hour of hours) next[hour] = value
      set(next)
    },
    /** These alone, each as it bids. */
    only: (isOpen: (hour: number) => boolean) =>
      set(Array.from({ length: HOURS_PER_WEEK }, (_, hour) => (isOpen(hour) ? perMille.value[hour] || OPEN : 0))),
    copyMonday: () => set(Array.from({ length: HOURS_PER_WEEK }, (_, hour) => perMille.value[hour % 24]))
  }
}
