import { onBeforeUnmount, onMounted, shallowRef, watch, type Ref, type ShallowRef, type WatchSource } from 'vue'
import type { Chart } from '@/theme/charts'

/**
 * A chart on a canvas of the page: made anew when what it shows changes, gone with it. It is drawn once the page has been painted: what
 * stands in words and figures comes first.
 * @param make draws; null where there is nothing to draw
 */
export function useChart(
  canvas: Readonly<Ref<HTMLCanvasElement | null>>,
  make: (canvas: HTMLCanvasElement) => Chart | null,
  shows: WatchSource
): ShallowRef<Chart | null> {
  const chart = shallowRef<Chart | null>(null)
  let frame = 0
  let later: ReturnType<typeof setTimeout>
  function stop(): void {
    cancelAnimationFrame(frame)
    clearTimeout(later)
  }
  function draw(): void {
    stop()
    frame = requestAnimationFrame(() => (later = setTimeout(drawNow)))
  }
  function drawNow(): void {
    chart.value?.destroy()
    chart.value = canvas.value ? make(canvas.value) : null
  }
  onMounted(draw)
  watch(shows, draw)
  onBeforeUnmount(() => {
    stop()
    chart.value?.destroy()
  })
  return chart
}
