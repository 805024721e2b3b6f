<script setup lang="ts">
import { computed, ref } from 'vue'
import { SPECIFICATION, cropFor, partProblem, type PartSpecification } from '@tin-harbor/core/creative'
import type { FileView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import FileField from '@/parts/FileField.vue'
import { isUnderWay, useFits } from '@/views/creatives/use-fits'
import { useUploads } from '@/views/creatives/use-uploads'
import { newKey, type MixEditing } from './use-mix'

/** Where a matrix gets its pictures: those of the library that fit, new files, and others that are cut to fit at once. */
export interface MixPicturesProps {
  editing: MixEditing
}
const props = defineProps<MixPicturesProps>()
const { view, mix, files, change } = props.editing

const SHOWN = 12
const kind = computed(() => mix.value?.kind ?? 'native')
const shape = computed(() => (kind.value === 'native' ? ('native card' as const) : ('notification' as const)))
const asked = computed(() =>
  (SPECIFICATION[shape.value] as readonly PartSpecification[]).find(({ part, medium }) => part === 'picture' && medium === 'picture')
)
const pictures = computed(() => files.value.filter(({ retired, medium }) => !retired && medium === 'picture'))
const fits = (file: FileView) => partProblem({ kind: kind.value, parts: {} }, 'picture', file.facts) === null
const isIn = ({ sha256 }: FileView) => mix.value?.pictures.some((one) => one.file === `sha256:${sha256}`) === true
const unused = computed(() => pictures.value.filter((file) => fits(file) && !isIn(file)))
/** Large enough to be cut for the slot, and not cut for it yet. */
const cuttable = computed(() => {
  const { ratios = [], least = null } = asked.value ?? {}
  return pictures.value.filter((file) => {
    const { width, height } = file.facts
    if (width === null || height === null || fits(file) || pictures.value.some((one) => one.madeFrom === file.id && fits(one))) return false
    return cropFor(width, height, ratios[0] ?? 1, { x: 0.5, y: 0.5 }).width >= (least?.width ?? 0)
  })
})

const add = (some: readonly FileView[]) =>
  change((m) => {
    // Files come in no order: they stand by their names.
    m.pictures = [...m.pictures, ...some.map((file) => ({ key: newKey(), said: file.name, file: `sha256:${file.sha256}` }))].sort((a, b) =>
      a.said.localeCompare(b.said, 'en', { numeric: true })
    )
  })
function put(file: FileView): void {
  files.value = files.value.some(({ id }) => id === file.id) ? files.value : [file, ...files.value]
}
const { sendings, send } = useUploads(() => view.value?.advertiserId ?? null, put)
const under = computed(() => sendings.value.filter(({ state }) => state !== 'done' && state !== 'refused').length)
const refused = computed(() => sendings.value.filter(({ state }) => state === 'refused'))

const cutError = ref<string | null>(null)
const { runs, follow } = useFits((_, made) => {
  void Promise.all(made.map((id) => api.file(id))).then(
    (all) => {
      all.forEach(put)
      add(all.filter((file) => fits(file) && !isIn(file)))
    },
    (failure: unknown) => (cutError.value = (failure as Error).message)
  )
})
const cutting = computed(() => [...runs.value.values()].filter(isUnderWay).length)
const failed = computed(() => [...runs.value.values()].flatMap(({ error }) => error ?? []))
function onCut() {
  cutError.value = null
  for (const { id } of cuttable.value)
    void follow(id, api.pictureFit(id, { slots: [{ shape: shape.value, part: 'picture', crop: null }], focal: { x: 0.5, y: 0.5 } }))
}
</script>

<template>
  <div class="MixPictures">
    <span class="small">Pictures of the library</span>
    <button v-if="unused.length > 0" class="plain small" type="button" data-test="all-pictures" @click="add(unused)">
      add {{ unused.length === 1 ? 'the one that fits' : `all ${unused.length} that fit` }}
    </button>
    <button v-if="cuttable.length > 0 && cutting === 0" class="plain small" type="button" data-test="cut-pictures" @click="onCut">
      cut {{ cuttable.length === 1 ? 'another one' : `${cuttable.length} others` }} to fit, and add
      {{ cuttable.length === 1 ? 'it' : 'them' }}
    </button>
    <FileField words="Add files …" accept="image/*" is-many @files="send" />
    <span v-if="under > 0 || cutting > 0" class="quiet small" role="status">{{
      under > 0 ? `${under} under way` : `${cutting} being cut`
    }}</span>
    <span v-for="one in refused" :key="one.name" class="trouble small" role="alert">{{ one.name }}: {{ one.said }}</span>
    <span v-for="message in cutError ? [cutError, ...failed] : failed" :key="message" class="trouble small" role="alert">{{
      message
    }}</span>
    <span v-if="unused.length > 0" class="MixPictures-unused">
      <button
        v-for="file in unused.slice(0, SHOWN)"
        :key="file.id"
        type="button"
        :title="file.name"
        :aria-label="`Add ${file.name}`"
        @click="add([file])">
        <img :src="api.fileUrl(file.id)" alt="" loading="lazy" />
      </button>
    </span>
  </div>
</template>

<style>
.MixPictures {
  display: grid;
  gap: 3px;
  justify-items: start;
  width: 200px;
}

.MixPictures-unused {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}

.MixPictures-unused button {
  padding: 0;
  border: 1px solid var(--rule);
  background: none;
  line-height: 0;
  cursor: pointer;
}

.MixPictures-unused img {
  width: 42px;
  height: 22px;
  object-fit: cover;
}
</style>
