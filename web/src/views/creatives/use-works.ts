import { ref, shallowRef, watch, type Ref } from 'vue'
import { useRouter } from 'vue-router'
import type { FileView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import { useManifest } from '@/stores/manifest'
import { newMix } from '@/views/mixer/use-mix'
import { newPlate } from '@/views/plates/use-plate'

/** What ads are made in: by its route, what its rows are called, and how they are read. */
const WORKS = [
  { name: 'mix', param: 'mixId', title: 'Mixed', read: api.mixes },
  { name: 'plate', param: 'plateId', title: 'Plates', read: api.plates },
  { name: 'feed', param: 'feedId', title: 'Feeds', read: api.feeds }
] as const
type WorkName = (typeof WORKS)[number]['name']

/** One of them as it is listed. */
interface Work {
  id: number
  name: string
  words: string
}

/** The matrices, plates and feeds of an advertiser, and new ones. @param files of its library, once they are read */
export function useWorks(advertiser: Ref<number | null>, files: Ref<readonly FileView[] | null>) {
  const router = useRouter()
  const manifest = useManifest()
  const { error, attempt } = useAttempt()
  const NONE: Readonly<Record<WorkName, readonly Work[]>> = { mix: [], plate: [], feed: [] }
  const works = shallowRef(NONE)
  const isBeginning = ref(false)
  watch(
    advertiser,
    async (id) => {
      works.value = NONE
      if (id === null) return
      const read = await Promise.all(WORKS.map(async ({ name, read: all }) => [name, await all(id).catch(() => [])] as const))
      if (id === advertiser.value) works.value = Object.fromEntries(read) as unknown as typeof NONE
    },
    { immediate: true }
  )
  /** Begins a matrix or a plate with what the library has for it, and goes there. */
  async function begin(name: 'mix' | 'plate'): Promise<void> {
    const one = manifest.advertisers.find(({ id }) => id === advertiser.value)
    if (!one || isBeginning.value) return
    isBeginning.value = true
    await attempt(async () => {
      // The library may still be under way: its icon, or its widest picture, is wanted.
      const library = files.value ?? (await api.files(one.id))
      const number = works.value[name].length + 1
      const { id } =
        name === 'mix'
          ? await api.newMix(one.id, newMix(one.name, number, library))
          : await api.newPlate(one.id, newPlate(one.name, number, library))
      await router.push({ name, params: { [`${name}Id`]: id } })
    })
    isBeginning.value = false
  }
  return { kinds: WORKS, works, error, begin }
}
