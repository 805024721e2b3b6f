<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useDropZone } from '@vueuse/core'
import { ElOption, ElSelect } from 'element-plus'
import { MOST_UPLOAD_BYTES } from '@tin-harbor/core/buying'
import type { AdView, FileView, LineView } from '@tin-harbor/core/contract'
import { SPECIFICATION, fileVerdict } from '@tin-harbor/core/creative'
import { shapesOf } from '@tin-harbor/core/taxonomy'
import { ApiError, api, type MadeChoice } from '@/api'
import { count } from '@/composables/formats'
import FileField from '@/parts/FileField.vue'
import LineAds from './LineAds.vue'
import LineField from './LineField.vue'

export interface LineCreativesProps {
  line: LineView
  disabled: boolean
}
const props = defineProps<LineCreativesProps>()
const emit = defineEmits<{ changed: [line: LineView] }>()

/** What is wrong with each file that was refused. */
const refused = ref<{ name: string; message: string }[]>([])
const isBusy = ref(false)

async function upload(files: readonly File[]) {
  refused.value = []
  isBusy.value = true
  for (const file of files) {
    try {
      if (file.size > MOST_UPLOAD_BYTES)
        throw new ApiError(
          413,
          'too-large',
          `The file has ${count(file.size / 1024 / 1024)} MB; at most ${MOST_UPLOAD_BYTES / 1024 / 1024} MB are read.`
        )
      emit('changed', await api.addPicture(props.line.id, file))
    } catch (error) {
      if (!(error instanceof ApiError)) throw error
      refused.value = [...refused.value, { name: file.name, message: error.of('file') ?? error.message }]
    }
  }
  isBusy.value = false
}

/** Files of the advertiser's library, and creatives made of parts that this format can show. */
const library = ref<FileView[]>([])
const made = ref<MadeChoice[]>([])
watch(
  () => [props.line.id, props.line.draft.format] as const,
  ([id]) => {
    void api.madeCreatives(id).then(
      (found) => (made.value = found),
      () => (made.value = [])
    )
    void api.files(props.line.advertiserId).then(
      (found) => (library.value = found),
      () => (library.value = [])
    )
  },
  { immediate: true }
)

interface Choice {
  test: string
  title: string
  words: string
  options: { id: number; name: string; label: string }[]
  add: (id: number) => Promise<LineView>
}
/** What is there already and could be added. */
const choices = computed((): Choice[] => {
  const { id: lineId, advertiserId, ads, draft } = props.line
  const shapes = shapesOf(draft.format).filter((shape) => SPECIFICATION[shape].some(({ part }) => part === 'file'))
  const isTaken = ({ facts }: FileView) => fileVerdict(facts, shapes).takes.some(({ part }) => part === 'file')
  return [
    {
      test: 'library-files',
      title: 'Add a file of the library',
      words: 'Add one of the library …',
      options: library.value
        .filter((file) => !file.retired && !file.usedBy.includes(lineId) && isTaken(file))
        .map(({ id, name }) => ({ id, name, label: name })),
      add: async (id: number) => {
        const view = await api.addFile(lineId, id)
        library.value = await api.files(advertiserId)
        return view
      }
    },
    {
      test: 'made-creatives',
      title: 'Add a creative made of parts',
      words: 'Add one made of parts …',
      options: made.value
        .filter(({ id }) => !ads.some((ad) => ad.madeCreativeId === id))
        .map(({ id, name, kind }) => ({ id, name, label: `${name} (${kind})` })),
      add: (id: number) => api.addMadeCreatives(lineId, [id])
    }
  ].filter(({ options }) => options.length > 0)
})
async function onChoice({ options, add }: Choice, id: number) {
  refused.value = []
  try {
    emit('changed', await add(id))
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    const { name } = options.find((one) => one.id === id) ?? { name: 'It' }
    refused.value = [{ name, message: error.of('file') ?? error.of('creatives') ?? error.message }]
  }
}

async function onRemove(ads: readonly AdView[]) {
  try {
    emit(
      'changed',
      await api.removeAds(
        props.line.id,
        ads.map(({ id }) => id)
      )
    )
  } catch (error) {
    refused.value = [{ name: ads[0].name, message: (error as Error).message }]
  }
}

const section = useTemplateRef('section')
const { isOverDropZone } = useDropZone(section, {
  onDrop: (dropped) => void upload(dropped ?? []),
  checkValidity: () => !props.disabled,
  preventDefaultForUnhandled: true
})
</script>

<template>
  <section ref="section" class="LineCreatives" :class="{ 'is-over': isOverDropZone }">
    <h2 class="ruled">Creatives</h2>
    <LineField of="rotation" />
    <LineAds v-if="line.ads.length > 0" :line="line" @remove="onRemove" @changed="$emit('changed', $event)" />
    <p v-if="line.ads.length === 0 && line.draft.format !== 'display'" class="quiet small">
      No creative yet. Those of the advertiser that {{ line.draft.format }} can show can be added.
    </p>
    <p v-else-if="line.ads.length === 0" class="quiet small">
      No creative yet: PNG, JPEG, GIF or WebP in one of the line's sizes, at most 200 kB.
    </p>
    <div v-for="{ name, message } in refused" :key="name" class="LineCreatives-refused" role="alert">
      <b>{{ name }}</b> was refused. {{ message }}
    </div>
    <template v-if="!disabled">
      <template v-if="line.draft.format === 'display'"
        ><FileField words="Add pictures …" accept="image/*" is-many :is-busy="isBusy" @files="upload" />{{ ' '
        }}<span class="quiet small">or drop them here</span></template
      >
      <ElSelect
        v-for="choice in choices"
        :key="choice.test"
        class="LineCreatives-choose"
        :model-value="undefined"
        size="small"
        :placeholder="choice.words"
        :aria-label="choice.title"
        :data-test="choice.test"
        @change="(id: number) => onChoice(choice, id)">
        <ElOption v-for="{ id, label } in choice.options" :key="id" :value="id" :label="label" />
      </ElSelect>
      <span v-if="line.draft.format !== 'display' && line.ads.length === 0 && choices.length === 0" class="quiet small"
        >The advertiser has none: files are added under <RouterLink :to="{ name: 'creatives' }">Creatives</RouterLink>.</span
      >
    </template>
  </section>
</template>

<style>
.LineCreatives {
  padding-bottom: 8px;
}

.LineCreatives.is-over {
  outline: 2px dashed var(--brass);
}

.LineCreatives-choose {
  width: 240px;
  margin-left: 8px;
}

.LineCreatives-refused {
  margin: 6px 0;
  padding: 6px 10px;
  border-left: 3px solid var(--hull);
  background: var(--hull-wash);
}
</style>
