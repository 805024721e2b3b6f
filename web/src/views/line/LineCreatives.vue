<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { ElOption, ElSelect } from 'element-plus'
import { MOST_UPLOAD_BYTES } from '@tin-harbor/core/buying'
import type { AdView, FileView, LineView } from '@tin-harbor/core/contract'
import { SPECIFICATION, fileVerdict } from '@tin-harbor/core/creative'
import { shapesOf } from '@tin-harbor/core/taxonomy'
import { ApiError, api, type MadeChoice } from '@/api'
import { count } from '@/composables/formats'
import FileField from '@/parts/FileField.vue'

export interface LineCreativesProps {
  line: LineView
  disabled: boolean
}
const props = defineProps<LineCreativesProps>()
const emit = defineEmits<{ changed: [line: LineView] }>()

/** What is wrong with each file that was refused. */
const refused = ref<{ name: string; message: string }[]>([])
const isBusy = ref(false)
const isOver = ref(false)

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

/** Files of the advertiser's library that a slot of this format takes. */
const library = ref<FileView[]>([])
watch(
  () => [props.line.id, props.line.draft.format] as const,
  async () => {
    library.value = await api.files(props.line.advertiserId).catch(() => [])
  },
  { immediate: true }
)
const ofLibrary = computed(() => {
  const shapes = shapesOf(props.line.draft.format).filter((shape) => SPECIFICATION[shape].some(({ part }) => part === 'file'))
  return library.value.filter(
    (file) =>
      !file.retired && !file.usedBy.includes(props.line.id) && fileVerdict(file.facts, shapes).takes.some(({ part }) => part === 'file')
  )
})
async function onFile(id: number) {
  refused.value = []
  try {
    emit('changed', await api.addFile(props.line.id, id))
    library.value = await api.files(props.line.advertiserId)
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    refused.value = [{ name: library.value.find((one) => one.id === id)?.name ?? 'The file', message: error.of('file') ?? error.message }]
  }
}

/** Creatives made of parts that this format can show. */
const made = ref<MadeChoice[]>([])
watch(
  () => [props.line.id, props.line.draft.format] as const,
  async ([id]) => {
    made.value = await api.madeCreatives(id).catch(() => [])
  },
  { immediate: true }
)
const offered = () => made.value.filter(({ id }) => !props.line.ads.some((ad) => ad.madeCreativeId === id))

async function onMade(id: number) {
  refused.value = []
  try {
    emit('changed', await api.addMadeCreative(props.line.id, id))
  } catch (error) {
    refused.value = [{ name: made.value.find((other) => other.id === id)?.name ?? 'The creative', message: (error as ApiError).message }]
  }
}

async function onRemove(ad: AdView) {
  try {
    emit('changed', await api.removeAd(props.line.id, ad.id))
  } catch (error) {
    refused.value = [{ name: ad.name, message: (error as Error).message }]
  }
}

const files = (list: FileList | null | undefined) => Array.from(list ?? [])
function onDrop(event: DragEvent) {
  isOver.value = false
  if (!props.disabled) void upload(files(event.dataTransfer?.files))
}
</script>

<template>
  <section
    class="LineCreatives"
    :class="{ 'is-over': isOver }"
    @dragover.prevent="isOver = !disabled"
    @dragleave="isOver = false"
    @drop.prevent="onDrop">
    <h2 class="ruled">Creatives</h2>
    <ul v-if="line.ads.length > 0">
      <li v-for="ad in line.ads" :key="ad.id">
        <img v-if="ad.creativeId !== null" :src="api.pictureUrl(ad.creativeId)" :alt="ad.name" />
        <b v-else class="LineCreatives-made">{{ ad.name }}</b>
        <span v-if="ad.creativeId !== null"
          ><b>{{ ad.size }}</b> <span class="quiet small">{{ count(Math.max(1, ad.bytes / 1024)) }} kB, {{ ad.review }}</span></span
        >
        <span v-else class="quiet small">{{ ad.type }} for {{ ad.size }}, {{ ad.review }}</span>
        <button v-if="!disabled" class="plain small" type="button" :aria-label="`Take ${ad.name} off the line`" @click="onRemove(ad)">
          ✕
        </button>
      </li>
    </ul>
    <p v-else-if="line.draft.format !== 'display'" class="quiet small">
      No creative yet. Those of the advertiser that are made for {{ line.draft.format }} can be added.
    </p>
    <p v-else class="quiet small">No creative yet: PNG, JPEG, GIF or WebP in one of the line's sizes, at most 200 kB.</p>
    <div v-for="{ name, message } in refused" :key="name" class="LineCreatives-refused" role="alert">
      <b>{{ name }}</b> was refused. {{ message }}
    </div>
    <template v-if="!disabled">
      <template v-if="line.draft.format === 'display'"
        ><FileField words="Add pictures …" accept="image/*" is-many :is-busy="isBusy" @files="upload" />{{ ' '
        }}<span class="quiet small">or drop them here</span></template
      >
      <ElSelect
        v-if="ofLibrary.length > 0"
        class="LineCreatives-choose"
        :model-value="undefined"
        size="small"
        placeholder="Add one of the library …"
        aria-label="Add a file of the library"
        data-test="library-files"
        @change="onFile">
        <ElOption v-for="{ id, name } in ofLibrary" :key="id" :value="id" :label="name" />
      </ElSelect>
      <ElSelect
        v-if="offered().length > 0"
        class="LineCreatives-choose"
        :model-value="undefined"
        size="small"
        placeholder="Add one made of parts …"
        aria-label="Add a creative made of parts"
        data-test="made-creatives"
        @change="onMade">
        <ElOption v-for="{ id, name, kind } in offered()" :key="id" :value="id" :label="`${name} (${kind})`" />
      </ElSelect>
      <span v-else-if="line.draft.format !== 'display' && line.ads.length === 0 && ofLibrary.length === 0" class="quiet small"
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

.LineCreatives ul {
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  margin: 0 0 10px;
  padding: 0;
  list-style: none;
}

.LineCreatives li {
  display: flex;
  flex-direction: column;
  gap: 3px;
  align-items: flex-start;
}

.LineCreatives img {
  max-width: 170px;
  max-height: 96px;
  border: 1px solid var(--rule);
}

.LineCreatives-made {
  max-width: 190px;
  padding: 8px 10px;
  border: 1px solid var(--rule);
  background: var(--paper);
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
