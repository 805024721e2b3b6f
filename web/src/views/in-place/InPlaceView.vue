<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { ElButton } from 'element-plus'
import type { LinePreview, PreviewLinkView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import StateNote from '@/parts/StateNote.vue'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import HitsTold from './HitsTold.vue'
import InPlaceStage from './InPlaceStage.vue'

/** The ads of a line in place, and the links by which a client sees them. */
const route = useRoute()
const manifest = useManifest()
const session = useSession()
const id = computed(() => Number(route.params.lineId))
const preview = shallowRef<LinePreview | null>(null)
const error = ref<string | null>(null)
const links = shallowRef<PreviewLinkView[]>([])
/** The link that was just made: it is told once. */
const made = ref<string | null>(null)
const days = ref(14)

async function load() {
  try {
    ;[preview.value, links.value] = await Promise.all([api.linePreview(id.value), api.previewLinks(id.value)])
    error.value = null
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
watch(id, load, { immediate: true })
const addressOf = (sha256: string, playable: boolean) => api.lineContentUrl(id.value, sha256, playable)
const { error: failure, attempt } = useAttempt()
const onMake = () =>
  attempt(async () => {
    const answer = await api.makePreviewLink(id.value, days.value)
    links.value = answer.links
    made.value = `${location.origin}${answer.path}`
  })
const onClose = (link: number) =>
  attempt(async () => {
    await api.closePreviewLink(link)
    links.value = links.value.filter((one) => one.id !== link)
  })
const day = (until: number) => new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric' }).format(until)
</script>

<template>
  <div class="InPlaceView">
    <header>
      <p class="quiet">
        <RouterLink :to="{ name: 'line', params: { lineId: id }, query: { clause: 'F' } }">{{
          manifest.lineName(id) || `L-${id}`
        }}</RouterLink>
      </p>
      <h1>In place</h1>
      <form v-if="session.may('draft')" @submit.prevent="onMake">
        <label>A link for a client, open <input v-model.number="days" type="number" min="1" max="90" data-test="link-days" /> days</label>
        <ElButton size="small" native-type="submit" data-test="make-link">Make it</ElButton>
      </form>
    </header>
    <p v-if="made" class="small" role="status" data-test="link-made">
      <a :href="made">{{ made }}</a> <span class="quiet">told once: copy it now. Whoever has it sees these ads and nothing else.</span>
    </p>
    <p v-if="failure" class="trouble small" role="alert">{{ failure }}</p>
    <HitsTold v-if="preview" :line="id" :ads="preview.ads" />
    <p v-if="links.length > 0" class="small" data-test="links">
      <template v-for="(one, n) in links" :key="one.id"
        >{{ n > 0 ? '; ' : 'Open links: ' }}until {{ day(one.until) }}{{ one.madeBy ? `, by ${one.madeBy}` : '' }}
        <button
          v-if="session.may('draft')"
          class="plain"
          type="button"
          :aria-label="`Close the link until ${day(one.until)}`"
          @click="onClose(one.id)">
          close
        </button></template
      >
    </p>
    <StateNote v-if="error || !preview" :error="error" reads="Reading the ads" @retry="load" />
    <InPlaceStage v-else :preview="preview" :address-of="addressOf" :vast-of="(ad) => api.vastUrl(id, ad)" />
  </div>
</template>

<style>
.InPlaceView {
  display: flex;
  flex-direction: column;
  height: 100%;
  padding: 12px 20px;
  background: var(--paper);
}

.InPlaceView > header {
  display: flex;
  gap: 18px;
  align-items: baseline;
}

.InPlaceView h1 {
  flex: 1;
  font: 600 21px/1.2 var(--serif);
}

.InPlaceView form {
  display: flex;
  gap: 10px;
  align-items: center;
}

.InPlaceView form input {
  width: 52px;
}
</style>
