import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { PLATE_SHAPES, PLATE_TEXTS, cutText, plateFindings, plateSchema, type Plate, type PlateText } from '@tin-harbor/core/creative'
import { InputError, parseInput } from '@tin-harbor/core/input'
import type { FileView, PlateDrawn, PlateView } from '@tin-harbor/core/contract'
import { useTimeoutFn } from '@vueuse/core'
import { ApiError, api } from '@/api'
import { useSaving, type Saving } from '@/composables/use-saving'

const copied = (one: Plate): Plate => JSON.parse(JSON.stringify(one)) as Plate
/** How long after the last letter the pictures are drawn anew. */
const DRAW_AFTER_MS = 250

/** A plate that is edited: saved and drawn in all its sizes as it is typed. */
export function usePlate(id: Ref<number>) {
  const view = shallowRef<PlateView | null>(null)
  const plate = ref<Plate | null>(null)
  const files = shallowRef<FileView[]>([])
  const drawn = shallowRef<PlateDrawn[]>([])
  const isDrawing = ref(false)
  const error = ref<string | null>(null)
  /** What cannot be saved, or was refused. */
  const refused = ref<string[]>([])

  async function load(): Promise<void> {
    try {
      view.value = await api.plate(id.value)
      plate.value = copied(view.value.plate)
      files.value = await api.files(view.value.advertiserId)
      error.value = null
      await draw()
    } catch (failure) {
      error.value = (failure as Error).message
    }
  }

  async function attempt(): Promise<Saving> {
    if (!view.value || !plate.value) return 'saved'
    refused.value = []
    const mine = copied(plate.value)
    try {
      parseInput(plateSchema, mine)
      view.value = await api.savePlate(id.value, view.value.version, mine)
      return JSON.stringify(mine) === JSON.stringify(plate.value) ? 'saved' : 'waiting'
    } catch (failure) {
      if (failure instanceof InputError) refused.value = failure.issues.map(({ message }) => message)
      else if (failure instanceof ApiError && failure.code === 'stale')
        refused.value = ['Somebody else changed the plate meanwhile. Load the page anew to see theirs; yours is not saved.']
      else if (failure instanceof ApiError && failure.status < 500) refused.value = failure.messages
      else return 'away'
      return 'refused'
    }
  }
  const { saving, soon, save, saveAll } = useSaving(attempt)

  let turn = 0
  /** Draws it as it is typed; an answer that a newer one overtook is not shown. */
  async function draw(): Promise<void> {
    if (!plate.value) return
    const mine = ++turn
    isDrawing.value = true
    try {
      const found = await api.drawPlate(id.value, parseInput(plateSchema, copied(plate.value)))
      if (mine === turn) drawn.value = found
    } catch (failure) {
      if (!(failure instanceof ApiError || failure instanceof InputError)) throw failure
      // What is wrong is told where it is saved.
    } finally {
      if (mine === turn) isDrawing.value = false
    }
  }
  const later = useTimeoutFn(() => void draw(), DRAW_AFTER_MS, { immediate: false })

  function change(edit: (plate: Plate) => void): void {
    if (!plate.value) return
    edit(plate.value)
    soon()
    later.stop()
    later.start()
  }
  const findings = computed(() => (plate.value ? plateFindings(plate.value) : []))
  const found = (part: PlateText) => findings.value.filter((one) => one.part === part)
  const pictures = computed(() =>
    files.value.filter((file) => !file.retired && file.medium === 'picture' && !file.madeHow?.startsWith('built of'))
  )
  watch(id, load, { immediate: true })
  return { view, plate, files, pictures, drawn, isDrawing, error, refused, saving, save, saveAll, change, found, load }
}
export type PlateEditing = ReturnType<typeof usePlate>

/** A plate to begin with: the widest picture of the library, and the advertiser's name. */
export function newPlate(advertiser: string, number: number, files: readonly FileView[]): Plate {
  const pictures = files.filter((file) => !file.retired && file.medium === 'picture' && (file.facts.width ?? 0) >= 300)
  const widest = [...pictures]
    .sort((a, b) => (b.facts.width ?? 0) * (b.facts.height ?? 0) - (a.facts.width ?? 0) * (a.facts.height ?? 0))
    .at(0)
  return {
    name: `Plate ${number}`,
    layout: 'shelf',
    headline: '',
    text: '',
    brand: cutText(advertiser, PLATE_TEXTS.brand.most),
    button: 'See more',
    image: widest ? `sha256:${widest.sha256}` : '',
    whole: false,
    cover: '',
    focal: { x: 0.5, y: 0.5 },
    ground: '#16323c',
    accent: '#d9a441',
    sizes: [...PLATE_SHAPES]
  }
}
