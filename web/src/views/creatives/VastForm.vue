<script setup lang="ts">
import { ref } from 'vue'
import { ElButton, ElInput } from 'element-plus'
import type { FileView, VastRead } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { count } from '@/composables/formats'

/** Reads a VAST tag of somebody else's: through its wrappers to what it plays and tells; what it plays can be taken into the library. */
export interface VastFormProps {
  advertiser: number
}
const props = defineProps<VastFormProps>()
const emit = defineEmits<{ close: []; taken: [file: FileView] }>()

const tag = ref('')
const read = ref<VastRead | null>(null)
const errors = ref<string[]>([])
const isBusy = ref(false)

async function attempt(what: () => Promise<void>) {
  isBusy.value = true
  errors.value = []
  try {
    await what()
  } catch (failure) {
    if (!(failure instanceof ApiError)) throw failure
    errors.value = failure.messages
  } finally {
    isBusy.value = false
  }
}
const onRead = () =>
  attempt(async () => {
    read.value = null
    read.value = await api.readVast(tag.value.trim())
  })
const onTake = (address: string) => attempt(async () => emit('taken', (await api.fetchFile(props.advertiser, address)).file))
</script>

<template>
  <aside class="FileNote VastForm" aria-label="A VAST tag">
    <header>
      <h2>A VAST tag</h2>
      <button class="plain" type="button" aria-label="Close" @click="$emit('close')">✕</button>
    </header>
    <form @submit.prevent="onRead">
      <label>Its address, or the tag itself <ElInput v-model="tag" type="textarea" :rows="4" data-test="vast-tag" /></label>
      <p class="FileNote-buttons">
        <ElButton size="small" native-type="submit" :loading="isBusy" :disabled="tag.trim() === ''" data-test="read-vast">Read it</ElButton>
      </p>
    </form>
    <p v-for="message in errors" :key="message" class="trouble small" role="alert">{{ message }}</p>
    <template v-if="read">
      <p class="small" role="status" data-test="vast-read">
        VAST {{ read.version || 'of no version' }}, {{ read.ads.length === 1 ? 'one ad' : `${count(read.ads.length)} ads`
        }}{{
          read.chain.length > 1 ? `, through ${count(read.chain.length - 1)} ${read.chain.length === 2 ? 'wrapper' : 'wrappers'}` : ''
        }}.
      </p>
      <ol v-if="read.chain.length > 1" class="VastForm-chain small">
        <li v-for="address in read.chain" :key="address">{{ address }}</li>
      </ol>
      <p v-if="read.ads.length === 0" class="small">It is empty: whoever plays it shows nothing.</p>
      <section v-for="(ad, n) in read.ads" :key="n">
        <h3>{{ ad.title || 'Without a title' }}</h3>
        <p class="small quiet">
          {{ ad.system }}{{ ad.seconds === null ? '' : `, ${ad.seconds} s`
          }}{{ ad.skipAfter === null ? '' : `, skipped after ${ad.skipAfter} s` }}; lands on {{ ad.landing || 'no page' }}
        </p>
        <ul>
          <li v-for="one in ad.media" :key="one.address">
            {{ one.type }}, {{ one.width }}x{{ one.height }}{{ one.kbps > 0 ? `, ${count(one.kbps)} kbit/s` : '' }}
            <small class="quiet">{{ one.address }}</small>
            <button
              v-if="one.isPlayed"
              class="plain small"
              type="button"
              :disabled="isBusy"
              data-test="take-media"
              @click="onTake(one.address)">
              Take it into the library
            </button>
            <small v-else class="quiet">is not taken: neither a film nor a sound as it stands</small>
          </li>
        </ul>
        <details class="small">
          <summary>
            {{ count(ad.impressions.length) }} told of showings, {{ count(ad.events.length) }} of events, {{ count(ad.errors.length) }} of
            errors
          </summary>
          <p v-for="address in ad.impressions" :key="address">impression: {{ address }}</p>
          <p v-for="one in ad.events" :key="one.event + one.address">{{ one.event }}: {{ one.address }}</p>
          <p v-for="address in ad.errors" :key="address">error: {{ address }}</p>
        </details>
      </section>
    </template>
  </aside>
</template>

<style>
.VastForm-chain,
.VastForm details p,
.VastForm li small {
  overflow-wrap: anywhere;
}

.VastForm ul {
  padding-left: 14px;
}
</style>
