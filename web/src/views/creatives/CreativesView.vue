<script setup lang="ts">
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { useDropZone } from '@vueuse/core'
import { MEDIA, isPlayable, type Medium } from '@tin-harbor/core/creative'
import { SHAPES } from '@tin-harbor/core/taxonomy'
import type { FileView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useAddress } from '@/composables/use-address'
import { count, perCent } from '@/composables/formats'
import FileField from '@/parts/FileField.vue'
import StateNote from '@/parts/StateNote.vue'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import AdForm from './AdForm.vue'
import FeedForm from './FeedForm.vue'
import FileNote from './FileNote.vue'
import FileSight from './FileSight.vue'
import SoundForm from './SoundForm.vue'
import VastForm from './VastForm.vue'
import { aboutFile, rowOf, stateOf, verdictOf } from './file-words'
import { useFits } from './use-fits'
import { useUploads } from './use-uploads'
import { useWorks } from './use-works'

const USES = { all: 'used or not', used: 'on a line', unused: 'on no line', wrong: 'that fit nothing yet', retired: 'retired' } as const
type Use = keyof typeof USES
const MEDIUM_WORDS: Readonly<Record<Medium, string>> = { picture: 'pictures', film: 'films', sound: 'sounds', banner: 'banners' }

const FEW = 8
const manifest = useManifest()
const session = useSession()
const address = useAddress()
const [advertiserPart, mediumPart, usePart, tagPart, filePart, makePart, slotPart] = [
  'advertiser',
  'kind',
  'use',
  'tag',
  'file',
  'make',
  'slot'
].map(address.part)
const searched = ref('')

const advertiser = computed(
  () => manifest.advertisers.find(({ id }) => id === Number(advertiserPart.value))?.id ?? manifest.advertisers[0]?.id ?? null
)
const use = computed<Use>(() => (usePart.value in USES ? (usePart.value as Use) : 'all'))
const files = shallowRef<FileView[] | null>(null)
const error = ref<string | null>(null)

async function load() {
  const wanted = advertiser.value
  if (wanted === null) return
  try {
    const found = await api.files(wanted)
    if (wanted !== advertiser.value) return
    files.value = found
    error.value = null
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
const onRetry = () => (advertiser.value === null ? manifest.load() : load())
/** In its place, or first where it is new. */
function put(file: FileView) {
  const all = files.value ?? []
  files.value = all.some(({ id }) => id === file.id) ? all.map((one) => (one.id === file.id ? file : one)) : [file, ...all]
}
/** What browsers do not play gets what stands in for it at once; what that takes is told in the file's margin. */
function onTaken(file: FileView) {
  put(file)
  if (!file.hasProxy && !isPlayable(file.facts)) void follow(file.id, api.makePlayable(file.id))
}
const { sendings, cutOff, readCutOff, giveUp, send, clear } = useUploads(() => advertiser.value, onTaken)
watch(
  advertiser,
  () => {
    files.value = null
    clear()
    void load()
    void readCutOff()
  },
  { immediate: true }
)

/** Of many, what was taken is counted, and only the others are named: the sheet stays in sight. */
const told = computed(() =>
  sendings.value.length <= FEW ? sendings.value : sendings.value.filter(({ state, said }) => state !== 'done' || said !== '')
)

const isUse: Readonly<Record<Use, (file: FileView) => boolean>> = {
  all: (file) => !file.retired,
  used: (file) => file.usedBy.length > 0,
  unused: (file) => !file.retired && file.usedBy.length === 0,
  wrong: (file) => !file.retired && verdictOf(file).takes.length === 0,
  retired: (file) => file.retired
}
/** Slots that take some of the files. */
const slots = computed(() =>
  SHAPES.filter((shape) => (files.value ?? []).some((file) => verdictOf(file).takes.some((one) => one.shape === shape)))
)
const tags = computed(() => [...new Set((files.value ?? []).flatMap((file) => file.tags))].sort())
const shown = computed(() => {
  const wanted = searched.value.trim().toLowerCase()
  return (files.value ?? []).filter(
    (file) =>
      isUse[use.value](file) &&
      (slotPart.value === '' || verdictOf(file).takes.some(({ shape }) => shape === slotPart.value)) &&
      (mediumPart.value === '' || file.medium === mediumPart.value) &&
      (tagPart.value === '' || file.tags.includes(tagPart.value)) &&
      `${file.name} ${file.altText} ${file.tags.join(' ')}`.toLowerCase().includes(wanted)
  )
})
/** Rows of the sheet by the slots that take a file; what fits nothing comes first: there is something to do about it. */
const rows = computed(() => {
  const found = new Map<string, FileView[]>()
  for (const file of shown.value) found.set(rowOf(file), [...(found.get(rowOf(file)) ?? []), file])
  return [...found].sort(([, a], [, b]) => verdictOf(a[0]).takes.length - verdictOf(b[0]).takes.length)
})
const chosen = computed(() => (files.value ?? []).find(({ id }) => id === Number(filePart.value)) ?? null)
const original = computed(() => (files.value ?? []).find(({ id }) => id === chosen.value?.madeFrom) ?? null)
const { runs, follow, stop } = useFits(async (file, made) => {
  await load()
  // What was made of a film that is still looked at is seen beside it; pictures for many slots lie in their rows.
  if (made.length === 1 && chosen.value?.id === file) filePart.value = String(made[0])
})
function onMakeNew(what: 'ad' | 'spot' | 'vast' | 'feed') {
  filePart.value = ''
  makePart.value = what
}
const { kinds, works, error: workError, begin } = useWorks(advertiser, files)
const about = computed(() => manifest.advertisers.find(({ id }) => id === advertiser.value) ?? null)
const isMaking = computed(() => ['ad', 'spot', 'vast', 'feed'].includes(makePart.value) && !chosen.value && mayAdd.value)
function onFetched(file: FileView) {
  onTaken(file)
  filePart.value = String(file.id)
}
async function onMade(file: number) {
  await load()
  filePart.value = String(file)
}
const mayAdd = computed(() => session.may('draft') && advertiser.value !== null)
const sheet = useTemplateRef('sheet')
const { isOverDropZone } = useDropZone(sheet, {
  onDrop: (dropped) => send(dropped ?? []),
  checkValidity: () => mayAdd.value,
  preventDefaultForUnhandled: true
})
</script>

<template>
  <div class="CreativesView" :class="{ 'has-note': chosen || isMaking }">
    <section ref="sheet" class="CreativesView-sheet" :class="{ 'is-over': isOverDropZone }">
      <header>
        <h1>Creatives</h1>
        <RouterLink :to="{ name: 'specification' }">What slots take</RouterLink>
      </header>
      <p class="CreativesView-sentence">
        <select v-model="mediumPart" aria-label="Kind of file">
          <option value="">Files</option>
          <option v-for="medium in MEDIA" :key="medium" :value="medium">
            {{ MEDIUM_WORDS[medium] }}
          </option>
        </select>
        of
        <select :value="String(advertiser)" aria-label="Advertiser" @change="advertiserPart = ($event.target as HTMLSelectElement).value">
          <option v-for="one in manifest.advertisers" :key="one.id" :value="String(one.id)">{{ one.name }}</option>
        </select>
        <select :value="use" aria-label="Use" @change="usePart = ($event.target as HTMLSelectElement).value">
          <option v-for="(words, name) in USES" :key="name" :value="name">{{ words }}</option>
        </select>
        for
        <select v-model="slotPart" aria-label="Slot that takes it">
          <option value="">any slot</option>
          <option v-for="shape in slots" :key="shape" :value="shape">{{ shape }}</option>
        </select>
        <template v-if="tags.length > 0"
          >tagged
          <select v-model="tagPart" aria-label="Tag">
            <option value="">anything</option>
            <option v-for="tag in tags" :key="tag" :value="tag">{{ tag }}</option>
          </select></template
        >
        <input v-model="searched" type="search" placeholder="called …" aria-label="Search by name, text or tag" />
        <span v-if="files" class="quiet small" role="status">{{ count(shown.length) }} of {{ count(files.length) }}</span>
      </p>
      <p v-if="mayAdd" class="CreativesView-add">
        <FileField words="Add files …" accept="image/*,video/*,audio/*,.zip" is-many @files="send" />
        <button class="plain" type="button" data-test="write-ad" @click="onMakeNew('ad')">Write an ad …</button>
        <button class="plain" type="button" data-test="mix-ads" @click="begin('mix')">Mix ads …</button>
        <button class="plain" type="button" data-test="build-pictures" @click="begin('plate')">Build pictures …</button>
        <button class="plain" type="button" data-test="read-feed" @click="onMakeNew('feed')">Ads from a feed …</button>
        <button class="plain" type="button" data-test="make-spot" @click="onMakeNew('spot')">Make a spot …</button>
        <button class="plain" type="button" data-test="read-tag" @click="onMakeNew('vast')">Read a VAST tag …</button>
        <span class="quiet small">files can be dropped here; each is read whole before it is taken</span>
      </p>
      <template v-for="{ name, param, title } in kinds" :key="name">
        <p v-if="works[name].length > 0" class="small" :data-test="`${name}-list`">
          {{ title }}:
          <template v-for="(one, n) in works[name]" :key="one.id"
            >{{ n > 0 ? '; ' : '' }}<RouterLink :to="{ name, params: { [param]: one.id } }">{{ one.name }}</RouterLink
            >, {{ one.words }}</template
          >
        </p>
      </template>
      <p v-if="workError" class="trouble small" role="alert">{{ workError }}</p>
      <p v-if="cutOff.length > 0" class="small" role="status" data-test="cut-off">
        Broke off, and going on where it stopped once it is chosen again:
        <template v-for="one in cutOff" :key="one.key"
          >{{ one.name }} <button class="plain small" type="button" :aria-label="`Give ${one.name} up`" @click="giveUp(one)">✕</button
          >{{ ' ' }}</template
        >
      </p>
      <ul v-if="sendings.length > 0" class="CreativesView-sending" aria-label="Files under way">
        <li v-if="told.length < sendings.length">{{ count(sendings.length - told.length) }} of {{ count(sendings.length) }} are taken.</li>
        <li v-for="(one, n) in told" :key="n">
          <b>{{ one.name }}</b>
          <span v-if="one.foreseen && one.state !== 'done'" class="quiet small">{{ one.foreseen }}</span>
          <span v-if="one.state === 'sends'"
            ><progress :value="one.share" max="1" :aria-label="`${one.name} sent`"></progress> {{ perCent(one.share) }}
            <button class="plain small" type="button" :aria-label="`Stop ${one.name}`" @click="one.stop">✕</button></span
          >
          <span v-else :role="one.state === 'refused' ? 'alert' : 'status'" :class="{ trouble: one.state === 'refused' }">{{
            one.state === 'done' ? one.said || 'taken' : one.state === 'refused' ? one.said : one.state
          }}</span>
        </li>
      </ul>
      <p v-if="manifest.isLoaded && advertiser === null" class="CreativesView-none">You see no advertiser, and so no files.</p>
      <StateNote v-else-if="error || !files" :error="error ?? manifest.error" reads="Reading the library" @retry="onRetry" />
      <p v-else-if="files.length === 0" class="CreativesView-none">
        Nothing here yet. Add a picture, a film or a sound: it is read at once, and told which slots take it.
      </p>
      <p v-else-if="shown.length === 0" class="CreativesView-none">No file is like that.</p>
      <div class="CreativesView-rows">
        <section v-for="[row, own] in rows" :key="row" class="CreativesView-row">
          <h2 class="ruled">{{ row }}</h2>
          <ul>
            <li v-for="file in own" :key="file.id">
              <button
                type="button"
                :class="{ 'is-chosen': chosen?.id === file.id }"
                :aria-pressed="chosen?.id === file.id"
                @click="filePart = chosen?.id === file.id ? '' : String(file.id)">
                <FileSight :file="file" />
                <span class="CreativesView-name">{{ file.name }}</span>
                <span class="quiet small">{{ aboutFile(file) }}; {{ stateOf(file) }}</span>
              </button>
            </li>
          </ul>
        </section>
      </div>
    </section>
    <FileNote
      v-if="chosen"
      :key="chosen.id"
      :file="chosen"
      :original="original"
      :files="files ?? []"
      :run="runs.get(chosen.id)"
      @chosen="filePart = String($event)"
      @saved="put"
      @make="follow(chosen.id, $event)"
      @stop="stop(chosen.id)"
      @close="filePart = ''" />
    <AdForm
      v-else-if="isMaking && makePart === 'ad' && advertiser !== null"
      :key="advertiser"
      :advertiser="advertiser"
      :files="files ?? []"
      @close="makePart = ''" />
    <VastForm
      v-else-if="isMaking && makePart === 'vast' && advertiser !== null"
      :key="`vast ${advertiser}`"
      :advertiser="advertiser"
      @taken="onFetched"
      @close="makePart = ''" />
    <FeedForm
      v-else-if="isMaking && makePart === 'feed' && about"
      :key="`feed ${about.id}`"
      :advertiser="about"
      :files="files ?? []"
      :known="works.feed.length"
      @close="makePart = ''" />
    <SoundForm
      v-else-if="isMaking && advertiser !== null"
      :key="`spot ${advertiser}`"
      :advertiser="advertiser"
      @made="onMade"
      @recorded="(file) => send([file])"
      @close="makePart = ''" />
  </div>
</template>

<style>
.CreativesView {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  height: 100%;
  background: var(--paper);
  accent-color: var(--brass);
}

.CreativesView.has-note {
  grid-template-columns: minmax(0, 1fr) 350px;
}

.CreativesView-sheet {
  padding: 14px 24px 40px;
  overflow: auto;
}

.CreativesView-sheet.is-over {
  outline: 2px dashed var(--brass);
  outline-offset: -4px;
}

.CreativesView-sheet > header {
  display: flex;
  gap: 20px;
  align-items: baseline;
  justify-content: space-between;
}

.CreativesView h1 {
  font: 600 21px/1.2 var(--serif);
}

.CreativesView-sentence {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: baseline;
  margin: 8px 0;
  font: 15px/1.6 var(--serif);
}

.CreativesView-add {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  margin: 4px 0;
}

.CreativesView-add > button {
  white-space: nowrap;
}

.CreativesView-sending {
  margin: 6px 0;
  padding: 0;
  list-style: none;
}

.CreativesView-sending li {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 3px 0;
  border-bottom: 1px solid var(--rule-2);
}

.CreativesView-none {
  padding: 18px 0;
  font: 14px/1.5 var(--serif);
}

.CreativesView-rows {
  display: flex;
  flex-wrap: wrap;
  gap: 0 26px;
}

.CreativesView-row {
  flex: 1 1 auto;
  min-width: 190px;
}

.CreativesView-row h2 {
  margin: 14px 0 8px;
}

.CreativesView-row ul {
  display: flex;
  flex-wrap: wrap;
  gap: 14px 18px;
  margin: 0;
  padding: 0;
  list-style: none;
}

.CreativesView-row button {
  display: grid;
  gap: 2px;
  max-width: 260px;
  padding: 0 0 3px;
  border: 0;
  border-bottom: 2px solid transparent;
  background: none;
  color: var(--ink);
  text-align: left;
  font: 12.5px/1.35 var(--sans);
  cursor: pointer;
}

.CreativesView-row button.is-chosen {
  border-bottom-color: var(--brass);
}

.CreativesView-name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-weight: 600;
}
</style>
