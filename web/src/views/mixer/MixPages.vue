<script setup lang="ts">
import { ref } from 'vue'
import { ElButton } from 'element-plus'
import type { PageRead } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import type { MixEditing } from './use-mix'

/** Reads landing pages once: their titles become headlines, their descriptions texts, their pictures files of the library. */
export interface MixPagesProps {
  editing: MixEditing
}
const props = defineProps<MixPagesProps>()
defineEmits<{ close: [] }>()
const { view, files, add, change } = props.editing

const links = ref('')
const pages = ref<PageRead[] | null>(null)
const errors = ref<string[]>([])
const isBusy = ref(false)
/** Pictures that could not be taken, each with why. */
const lost = ref<string[]>([])
/** Pictures that were not taken since there are too many. */
const left = ref(0)
const progress = ref('')
/** The first of a page are what it is about; the rest is its furniture. */
const PICTURES_OF_PAGE = 3
const MOST_PICTURES = 60

async function onRead() {
  isBusy.value = true
  errors.value = []
  lost.value = []
  left.value = 0
  progress.value = 'the pages'
  try {
    const read = await api.readPages(links.value)
    pages.value = read
    const found = read.filter(({ problem }) => problem === null)
    const lines = (pick: (page: PageRead) => string) => found.map(pick).filter(Boolean).join('\n')
    add(
      'headlines',
      lines(({ title }) => title)
    )
    add(
      'texts',
      lines(({ description }) => description)
    )
    change((m) => {
      if (m.common.brand === '') m.common.brand = found.find(({ brand }) => brand !== '')?.brand ?? ''
    })
    await takeAll([...new Set(found.flatMap(({ pictures, icon }) => [...pictures.slice(0, PICTURES_OF_PAGE), ...(icon ? [icon] : [])]))])
  } catch (failure) {
    if (!(failure instanceof ApiError)) throw failure
    errors.value = failure.messages
  } finally {
    isBusy.value = false
    progress.value = ''
  }
}
/** Takes pictures into the library, one after the other: what was there already is found again. */
async function takeAll(addresses: readonly string[]) {
  const advertiser = view.value?.advertiserId
  if (advertiser === undefined) return
  left.value = Math.max(0, addresses.length - MOST_PICTURES)
  const taken = addresses.slice(0, MOST_PICTURES)
  for (const [n, address] of taken.entries()) {
    progress.value = `picture ${n + 1} of ${taken.length}`
    try {
      const { file } = await api.fetchFile(advertiser, address)
      if (!files.value.some(({ id }) => id === file.id)) files.value = [file, ...files.value]
    } catch (failure) {
      lost.value.push(`${address}: ${failure instanceof ApiError ? failure.messages.join(' ') : (failure as Error).message}`)
    }
  }
}
</script>

<template>
  <section class="MixPages" aria-label="Parts from pages">
    <label>Links of landing pages, one a line <textarea v-model="links" rows="3" data-test="page-links"></textarea></label>
    <p>
      <ElButton size="small" :loading="isBusy" :disabled="links.trim() === ''" data-test="read-pages" @click="onRead">Read them</ElButton>
      <button class="plain" type="button" @click="$emit('close')">Done</button>
      <span v-if="progress" class="quiet small" role="status" data-test="pages-progress">Reading {{ progress }} …</span>
    </p>
    <p v-for="message in errors" :key="message" class="trouble small" role="alert">{{ message }}</p>
    <template v-if="pages">
      <p class="small" role="status" data-test="pages-read">
        {{ pages.filter(({ problem }) => problem === null).length }} of {{ pages.length }} were read: their titles are headlines, their
        descriptions texts, the first {{ PICTURES_OF_PAGE }} pictures of each in the library.
      </p>
      <p v-for="page in pages.filter(({ problem }) => problem !== null)" :key="page.link" class="trouble small">
        {{ page.link }}: {{ page.problem }}
      </p>
      <p v-if="left > 0" class="small">{{ left }} more pictures were left there: at most {{ MOST_PICTURES }} are taken at once.</p>
      <p v-for="message in lost" :key="message" class="trouble small">{{ message }}</p>
    </template>
  </section>
</template>

<style>
.MixPages {
  max-height: 180px;
  padding: 6px 10px;
  overflow: auto;
  border-left: 3px solid var(--brass);
  background: var(--field);
}

.MixPages textarea {
  display: block;
  width: 100%;
  border: 1px solid var(--rule);
  background: var(--paper);
  font: 13px var(--sans);
}
</style>
