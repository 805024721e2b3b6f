<script setup lang="ts">
import { onMounted, onScopeDispose, ref } from 'vue'
import { useEventListener } from '@vueuse/core'
import type { SandboxView } from '@tin-harbor/core/contract'

/** What others made, as it runs in the sandbox, and what it is seen to try. */
export interface BannerRunProps {
  /** Says where it is shown. */
  open: () => Promise<SandboxView>
  /** Tells where it ran, and the addresses that it led its frame to; nothing where the one who looks may not. */
  ran: ((address: string, left: string[]) => Promise<unknown>) | null
  width: number
  height: number
  /** Hosts that it reached for before; null where it has not run. */
  calls: readonly string[] | null
}
const props = defineProps<BannerRunProps>()
/** Banners load and begin within the first seconds. */
const WATCHED_MS = 6000

const address = ref<string | null>(null)
const error = ref<string | null>(null)
const isWatched = ref(true)
const left = new Set<string>()
let timer: ReturnType<typeof setTimeout> | undefined

// A frame that leads itself away is stopped by our own policy, which says where to.
useEventListener(document, 'securitypolicyviolation', (event: SecurityPolicyViolationEvent) => {
  if (event.effectiveDirective === 'frame-src') left.add(event.blockedURI)
})

async function onWatched() {
  try {
    if (address.value !== null) await props.ran?.(address.value, [...left])
  } catch (failure) {
    error.value = (failure as Error).message
  }
  isWatched.value = false
}

onMounted(async () => {
  try {
    address.value = (await props.open()).address
    timer = setTimeout(() => void onWatched(), WATCHED_MS)
  } catch (failure) {
    error.value = (failure as Error).message
    isWatched.value = false
  }
})
onScopeDispose(() => clearTimeout(timer))
</script>

<template>
  <figure class="BannerRun">
    <div class="BannerRun-frame" tabindex="0" role="group" aria-label="What runs, at its own size">
      <iframe
        v-if="address"
        :src="address"
        :width="width"
        :height="height"
        sandbox="allow-scripts"
        referrerpolicy="no-referrer"
        title="The banner as it runs"></iframe>
    </div>
    <figcaption>
      <p class="small" role="status" data-test="banner-ran">
        <template v-if="error">{{ error }}</template>
        <template v-else-if="isWatched">It runs, without a way out; what it reaches for is noted …</template>
        <template v-else-if="calls === null">It ran; who may draft notes what it tries.</template>
        <template v-else-if="calls.length === 0">It ran, and reached for nothing.</template>
        <b v-else class="trouble">It reached for {{ calls.join(', ') }}, and was stopped.</b>
      </p>
    </figcaption>
  </figure>
</template>

<style>
.BannerRun {
  margin: 0 0 8px;
}

.BannerRun-frame {
  overflow: auto;
}

.BannerRun iframe {
  display: block;
  border: 1px solid var(--rule);
  background: #fff;
}
</style>
