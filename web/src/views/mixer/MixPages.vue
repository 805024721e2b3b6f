<script setup lang="ts">
import { ref } from 'vue'
import { ElButton } from 'element-plus'
import { pastedParts } from '@tin-harbor/core/creative'
import type { PageRead } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { newKey, type MixEditing } from './use-mix'

/** Reads landing pages once: their titles become headlines, their descriptions texts, their pictures files of the library. */
export interface MixPagesProps {
  editing: MixEditing
}
const props = defineProps<MixPagesProps>()
defineEmits<{ close: [] }>()
const { view, files, change } = props.editing

const links = ref('')
const pages = ref<PageRead[] | null>(null)
const errors = ref<string[]>([])
const isBusy = ref(false)
/** Pictures that could not be taken, each with why. */
const lost = ref<string[]>([])

async function onRead() {
  isBusy.value = true
  errors.value = []
  lost.value = []
  try {
    const read = await api.readPages(links.value)
    pages.value = read
    const found = read.filter(({ problem }) => problem === null)
    const lines = (pick: (page: PageRead) => string) => found.map(pick).filter(Boolean).join('\n')
    change((m) => {
      m.headlines = [
        ...m.headlines,
        ...pastedParts(
          lines((page) => page.title),
          m.headlines,
          newKey
        )
      ]
      m.texts = [
        ...m.texts,
        ...pastedParts(
          lines((page) => page.description),
          m.texts,
          newKey
        )
      ]
      if (m.common.brand === '') m.common.brand = found.find(({ brand }) => brand !== '')?.brand ?? ''
    })
    await takeAll([...new Set(found.flatMap(({ pictures, icon }) => [...pictures, ...(icon ? [icon] : [])]))])
  } catch (failure) {
    if (!(failure instanceof ApiError)) throw failure
    errors.value = failure.messages
  } finally {
    isBusy.value = false
  }
}
/** Takes pictures into the library, one after the other: what was there already is found again. */
async function takeAll(addresses: readonly string[]) {
  const advertiser = view.value?.advertiserId
  if (advertiser === undefined) return
  for (const address of addresses) {
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
    </p>
    <p v-for="message in errors" :key="message" class="trouble small" role="alert">{{ message }}</p>
    <template v-if="pages">
      <p class="small" role="status" data-test="pages-read">
        {{ pages.filter(({ problem }) => problem === null).length }} of {{ pages.length }} were read: their titles are headlines, their
        descriptions texts, their pictures in the library.
      </p>
      <p v-for="page in pages.filter(({ problem }) => problem !== null)" :key="page.link" class="trouble small">
        {{ page.link }}: {{ page.problem }}
      </p>
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
