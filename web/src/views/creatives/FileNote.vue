<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import { ElButton, ElInput } from 'element-plus'
import type { FileView, FitView } from '@tin-harbor/core/contract'
import { codecWords, isPlayable, weightWords } from '@tin-harbor/core/creative'
import { ApiError, api } from '@/api'
import { decimal, marketTime } from '@/composables/formats'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import BannerRun from './BannerRun.vue'
import FileSight from './FileSight.vue'
import FileVersions from './FileVersions.vue'
import FitFilm from './FitFilm.vue'
import FitPicture from './FitPicture.vue'
import FitProgress from './FitProgress.vue'
import { aboutFile, tellingOf, tenths, verdictOf } from './file-words'
import { isUnderWay, type FitRun } from './use-fits'

/** A file of the sheet, in its margin, one alone: what takes it, what is wrong with it, where it is used, and what it is called. */
export interface FileNoteProps {
  file: FileView
  /** What it was made of, if that is known. */
  original: FileView | null
  /** All of its library. */
  files: readonly FileView[]
  /** What is made of it, or was. */
  run: FitRun | undefined
}
const props = defineProps<FileNoteProps>()
const emit = defineEmits<{ saved: [file: FileView]; chosen: [id: number]; make: [asked: Promise<FitView>]; stop: []; close: [] }>()
const manifest = useManifest()
const session = useSession()

const CHANNELS: Readonly<Record<number, string>> = { 1: 'mono', 2: 'stereo' }
const name = ref(props.file.name)
const altText = ref(props.file.altText)
const tags = ref(props.file.tags.join(', '))
const error = ref<string | null>(null)
const isBusy = computed(() => isUnderWay(props.run))
/** It can be cut for slots, where it is seen already. */
const isCut = computed(
  () => props.file.medium === 'picture' && props.file.facts.seconds === null && session.may('draft') && !props.file.retired
)
const verdict = computed(() => verdictOf(props.file))
const findings = computed(() => tellingOf(props.file))
const tagList = computed(() => [
  ...new Set(
    tags.value
      .split(',')
      .map((tag) => tag.trim())
      .filter((tag) => tag !== '')
  )
])
const isChanged = computed(
  () => name.value !== props.file.name || altText.value !== props.file.altText || tagList.value.join() !== props.file.tags.join()
)
const heard = computed(() => {
  const { heard: track } = props.file.facts
  if (!track) return null
  const level = track.isSilent ? 'silent' : track.lufs === null ? '' : `${decimal(track.lufs)} LUFS`
  return [codecWords(track.codec), CHANNELS[track.channels] ?? `${track.channels} channels`, level].filter((word) => word !== '').join(', ')
})

const sight = useTemplateRef('sight')
const onKeepFrame = () => emit('make', api.keepFrame(props.file.id, Math.round((sight.value?.second() ?? 0) * 10) / 10))
const onRan = async (address: string, left: string[]) => emit('saved', await api.fileRan(props.file.id, { address, left }))

async function save(retired = props.file.retired) {
  const { id, version } = props.file
  const edit = { name: name.value.trim(), altText: altText.value.trim(), tags: tagList.value, retired, version }
  try {
    emit('saved', await api.saveFile(id, edit))
    error.value = null
  } catch (failure) {
    if (!(failure instanceof ApiError)) throw failure
    error.value = failure.issues[0]?.message ?? failure.message
    // What is typed stays: whoever saves it again has seen what it takes the place of.
    if (failure.code !== 'stale') return
    const current = failure.details.current as FileView
    error.value += ` It is “${current.name}” now, ${current.altText === '' ? 'without a text' : `said as “${current.altText}”`}.`
    emit('saved', current)
  }
}
</script>

<template>
  <aside class="FileNote" :aria-label="`About ${file.name}`">
    <header>
      <h2>{{ file.name }}</h2>
      <button class="plain" type="button" aria-label="Close" @click="$emit('close')">✕</button>
    </header>
    <BannerRun
      v-if="file.facts.banner"
      :key="file.id"
      :open="() => api.fileSandbox(file.id)"
      :ran="session.may('draft') ? onRan : null"
      :width="file.facts.width ?? 300"
      :height="file.facts.height ?? 250"
      :calls="file.facts.banner.calls" />
    <div v-else-if="original" class="FileNote-both">
      <figure>
        <FileSight :file="original" plays />
        <figcaption class="small quiet">before: {{ aboutFile(original) }}</figcaption>
      </figure>
      <figure>
        <FileSight :file="file" plays />
        <figcaption class="small quiet">as it is served</figcaption>
      </figure>
    </div>
    <FileSight v-else-if="!isCut" ref="sight" :file="file" plays />
    <p v-if="!file.hasProxy && !isPlayable(file.facts) && session.may('draft') && !isBusy" class="small">
      <button class="plain small" type="button" data-test="make-playable" @click="$emit('make', api.makePlayable(file.id))">
        Make a copy that can be looked at here
      </button>
    </p>
    <p v-if="file.medium === 'film' && !original && session.may('draft') && !isBusy" class="small">
      <button class="plain small" type="button" data-test="keep-frame" @click="onKeepFrame">Keep this frame as a picture</button>
    </p>
    <p class="small">
      {{ aboutFile(file)
      }}<template v-if="file.facts.seen"
        >; {{ codecWords(file.facts.seen.codec) }}, {{ tenths(file.facts.seen.framesASecond) }} frames a second</template
      ><template v-if="file.facts.banner"
        >; {{ file.facts.banner.files }} files, {{ weightWords(file.facts.banner.unpacked) }} unpacked, begins with
        {{ file.facts.banner.entry }}</template
      ><template v-if="heard">; sound {{ heard }}</template
      ><template v-if="file.facts.turned > 0">; turned by a flag</template>.
    </p>
    <p v-if="file.addedHour > 0" class="small quiet">
      Added {{ marketTime(file.addedHour) }}<template v-if="file.madeHow">, {{ file.madeHow }}</template
      >.
    </p>
    <section v-if="verdict.takes.length > 0">
      <h3>Takes it</h3>
      <ul>
        <li v-for="{ shape, part } in verdict.takes" :key="`${shape} ${part}`">
          {{ shape }}<span v-if="part !== 'file'" class="quiet"> as {{ part }}</span>
        </li>
      </ul>
    </section>
    <section v-if="findings.length > 0">
      <h3>{{ verdict.takes.length > 0 ? 'Others do not' : 'What is wrong' }}</h3>
      <ul data-test="file-findings">
        <li v-for="{ rule, is, allowed, shapes } in findings" :key="`${rule} ${is} ${allowed}`">
          <b>{{ is }}</b>; allowed is {{ allowed }} <span class="quiet small">for {{ shapes.join(', ') }}</span>
        </li>
      </ul>
    </section>
    <section v-if="verdict.bySource.length > 0">
      <h3>Not at every source</h3>
      <ul>
        <li v-for="{ is, allowed, sources } in verdict.bySource" :key="`${is} ${allowed}`">
          <b>{{ is }}</b>; {{ sources.join(', ') }}: {{ allowed }}
        </li>
      </ul>
    </section>
    <template v-if="session.may('draft') && !file.retired">
      <FitPicture v-if="isCut" :file="file" :is-busy="isBusy" @make="(fit) => $emit('make', api.pictureFit(file.id, fit))" />
      <FitFilm
        v-else-if="file.medium === 'film' || file.medium === 'sound'"
        :file="file"
        :is-busy="isBusy"
        @make="(fit) => $emit('make', api.filmFit(file.id, fit))" />
      <FitProgress v-if="run" :run="run" @stop="$emit('stop')" />
    </template>
    <FileVersions :key="file.id" :file="file" :files="files" @saved="$emit('saved', $event)" @chosen="$emit('chosen', $event)" />
    <section v-if="file.usedBy.length > 0">
      <h3>On</h3>
      <ul>
        <li v-for="line in file.usedBy" :key="line">
          <RouterLink :to="{ name: 'line', params: { lineId: line } }">{{ manifest.lineName(line) || 'a line' }}</RouterLink>
        </li>
      </ul>
    </section>
    <form v-if="session.may('draft')" @submit.prevent="save()">
      <label>Name <ElInput v-model="name" size="small" maxlength="190" /></label>
      <label>Said for it, to those who do not see it <ElInput v-model="altText" size="small" maxlength="300" /></label>
      <label>Tags, with commas <ElInput v-model="tags" size="small" /></label>
      <p v-if="error" class="trouble" role="alert">{{ error }}</p>
      <p class="FileNote-buttons">
        <ElButton size="small" native-type="submit" :disabled="!isChanged">Save</ElButton>
        <button class="plain small" type="button" @click="save(!file.retired)">
          {{ file.retired ? 'Offer it again' : 'Retire it' }}
        </button>
      </p>
    </form>
  </aside>
</template>

<style>
.FileNote {
  padding: 12px 16px 30px;
  overflow: auto;
  border-left: 1px solid var(--rule);
}

.FileNote header {
  display: flex;
  gap: 8px;
  align-items: baseline;
  justify-content: space-between;
}

.FileNote h2 {
  overflow-wrap: anywhere;
  font: 600 15px/1.3 var(--serif);
}

.FileNote h3 {
  margin: 10px 0 2px;
  color: var(--ink-2);
  font: 600 12px/1.3 var(--sans);
}

.FileNote ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

.FileNote li {
  padding: 3px 0;
  border-bottom: 1px solid var(--rule-2);
}

.FileNote .FileSight {
  width: 100%;
  height: auto;
  max-height: 190px;
  object-fit: contain;
}

.FileNote-both .FileSight {
  height: auto;
}

.FileNote audio.FileSight {
  height: 40px;
}

.FileNote form {
  display: grid;
  gap: 8px;
  margin-top: 14px;
}

.FileNote label {
  display: grid;
  gap: 2px;
  font-size: 12px;
}

.FileNote-both {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}

.FileNote-both figure {
  margin: 0;
}

.FileNote-buttons {
  display: flex;
  gap: 14px;
  align-items: baseline;
}
</style>
