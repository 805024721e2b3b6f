<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { useSessionStorage } from '@vueuse/core'
import { useRoute, useRouter } from 'vue-router'
import type { ManifestLine } from '@tin-harbor/core/contract'
import { shortName } from '@/composables/short-name'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import { WIDTH, useManifestStrips } from './use-manifest-strips'

/** Letters of a name that a strip is wide enough for, with a word beside it. */
const MOST_LETTERS = 32
const manifest = useManifest()
const session = useSession()
const route = useRoute()
const router = useRouter()
const { typed, wanted, axis, nowAt, groups, isCrowded } = useManifestStrips()
/** Campaigns that were folded or opened by hand; of many lines only those looked at are open at first. */
const byHand = useSessionStorage<Record<string, boolean>>('manifest-open', {})
const isOpen = (campaign: number) => wanted.value !== '' || (byHand.value[campaign] ?? (!isCrowded.value || campaign === hereIn.value))
const fold = (campaign: number) => (byHand.value = { ...byHand.value, [campaign]: !isOpen(campaign) })
const hereIn = computed(
  () => manifest.lines.find((line) => line.id === Number(route.params.lineId))?.campaignId ?? Number(route.params.campaignId)
)
const slowOf = (strips: readonly { isSlow: boolean }[]) => strips.filter(({ isSlow }) => isSlow).length

/** Arrow keys go from strip to strip; from the search they go into the list. */
const root = useTemplateRef('root')
function onKey(event: KeyboardEvent) {
  const by = { ArrowDown: 1, ArrowUp: -1 }[event.key]
  if (by === undefined) return
  const strips = [...(root.value?.querySelectorAll<HTMLElement>('.ManifestList-line, .ManifestList-campaign') ?? [])]
  const place = strips.indexOf(document.activeElement as HTMLElement)
  event.preventDefault()
  strips[Math.min(strips.length - 1, Math.max(0, place + by))]?.focus()
}

/** Lines are plain links that are followed here: a link of the router looks at every change of address, which hundreds of them feel. */
const addressOf = (line: ManifestLine) => router.resolve({ name: 'line', params: { lineId: line.id } }).href
function onFollow(event: MouseEvent) {
  const link = event.target instanceof Element ? event.target.closest('.ManifestList-line') : null
  if (!link || event.button !== 0 || event.metaKey || event.ctrlKey || event.shiftKey || event.altKey) return
  event.preventDefault()
  void router.push(link.getAttribute('href') ?? '/')
}

const isHere = (line: ManifestLine) => Number(route.params.lineId) === line.id
</script>

<template>
  <nav ref="root" class="ManifestList" :class="{ 'is-dense': isCrowded }" aria-label="Manifest" @keydown="onKey" @click="onFollow">
    <input
      v-model="typed"
      class="ManifestList-search"
      type="search"
      aria-label="Search the manifest"
      placeholder="name, tag or state"
      data-test="manifest-search" />
    <RouterLink class="ManifestList-new" :to="{ name: 'review' }">Review of ads</RouterLink>
    <div class="ManifestList-axis" aria-hidden="true">
      <span v-for="tick in axis.ticks" :key="tick.label" :style="{ left: `${tick.at * 100}%` }">{{ tick.label }}</span>
    </div>
    <p v-if="manifest.error" class="trouble small" role="alert">{{ manifest.error }}</p>
    <svg width="0" height="0" aria-hidden="true" class="ManifestList-patterns">
      <pattern id="behind" width="3" height="3" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" y1="0" x2="0" y2="3" stroke="var(--hull)" stroke-width="1.4" />
      </pattern>
    </svg>
    <section v-for="{ advertiser, campaigns } in groups" :key="advertiser.id">
      <h2>{{ advertiser.name }}</h2>
      <template v-for="{ campaign, strips } in campaigns" :key="campaign.id">
        <p class="ManifestList-head">
          <button
            v-if="strips.length > 0"
            class="plain"
            type="button"
            :aria-expanded="isOpen(campaign.id)"
            :aria-label="`Lines of ${campaign.name}`"
            @click="fold(campaign.id)">
            {{ isOpen(campaign.id) ? '–' : '+' }}
          </button>
          <RouterLink
            class="ManifestList-campaign"
            :title="campaign.name"
            :to="{ name: 'campaign', params: { campaignId: campaign.id } }"
            >{{ campaign.name }}</RouterLink><em v-if="!isOpen(campaign.id) && strips.length > 0"
            >{{ strips.length }}<b v-if="slowOf(strips) > 0" class="trouble">, {{ slowOf(strips) }} slow</b></em
          >
        </p>
        <a
          v-for="{ line, from, width, filled, due, isSlow, word, told: title } in isOpen(campaign.id) ? strips : []"
          :key="line.id"
          class="ManifestList-line"
          :class="{ 'is-here': isHere(line) }"
          :title="title"
          :href="addressOf(line)">
          <span class="ManifestList-name"
            ><span>{{ shortName(manifest.lineName(line.id), MOST_LETTERS) }}</span
            ><em :class="{ trouble: isSlow }">{{ word }}</em></span
          >
          <svg :width="WIDTH" height="9" aria-hidden="true">
            <line x1="0" :x2="WIDTH" y1="8.5" y2="8.5" stroke="var(--rule)" />
            <rect
              :x="from"
              y="2"
              :width="width"
              height="6"
              fill="none"
              stroke="var(--ink-2)"
              :stroke-dasharray="line.state === 'draft' ? '2 2' : undefined" />
            <rect :x="from" y="2" :width="filled" height="6" fill="var(--deep-2)" />
            <rect
              v-if="isSlow"
              :x="from + filled"
              y="2"
              :width="Math.max(0, due - filled)"
              height="6"
              fill="url(#behind)"
              stroke="var(--hull)"
              stroke-width=".8" />
            <line :x1="nowAt" :x2="nowAt" y1="0" y2="9" stroke="var(--brass)" stroke-width="1.4" />
          </svg>
        </a>
      </template>
      <p v-if="campaigns.length === 0 && wanted === ''" class="quiet small">no campaign yet</p>
      <p class="ManifestList-new small">
        <RouterLink v-if="session.may('draft')" :to="{ name: 'new-campaign', query: { advertiser: advertiser.id } }"
          >New campaign</RouterLink
        >
        <RouterLink :to="{ name: 'sold', params: { advertiserId: advertiser.id } }">Offers, trackers</RouterLink>
      </p>
    </section>
    <p v-if="wanted !== '' && groups.length === 0" class="quiet small">Nothing is called that.</p>
  </nav>
</template>

<style>
.ManifestList {
  padding: 10px 0 20px 14px;
  overflow: hidden auto;
  border-right: 1px solid var(--rule);
  font-size: 12.5px;
}

.ManifestList-search {
  width: 198px;
  margin-bottom: 6px;
  padding: 3px 6px;
  border: 1px solid var(--rule);
  background: var(--paper);
  font: 12px var(--sans);
}

.ManifestList-patterns {
  position: absolute;
}

.ManifestList-axis {
  position: relative;
  width: 198px;
  height: 16px;
  color: var(--ink-2);
  font-size: 10.5px;
}

.ManifestList-axis span {
  position: absolute;
  white-space: nowrap;
}

.ManifestList h2 {
  margin: 12px 0 1px;
  color: var(--ink-2);
  font-stretch: 85%;
}

.ManifestList-head {
  display: flex;
  gap: 5px;
  align-items: baseline;
  width: 198px;
  margin: 3px 0 1px;
}

.ManifestList-head button {
  width: 11px;
  text-align: center;
  text-decoration: none;
}

.ManifestList-head em {
  flex: none;
  margin-left: auto;
  color: var(--ink-2);
  font-size: 11px;
  font-style: normal;
}

.ManifestList-head b {
  font-weight: 600;
}

.ManifestList-new {
  display: flex;
  gap: 1rem;
}

.ManifestList-campaign {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--ink);
  font-weight: 600;
  text-decoration: none;
}

.ManifestList-line {
  display: block;
  margin: 1px -1px 1px -14px;
  padding: 3px 0 4px 13px;
  border: 1px solid transparent;
  border-right: 0;
  color: var(--ink);
  font-stretch: 90%;
  text-decoration: none;
}

.ManifestList-line.is-here {
  border-color: var(--rule);
  background: var(--paper);
}

.ManifestList-campaign.router-link-exact-active,
.ManifestList-campaign:hover,
.ManifestList-line:hover {
  text-decoration: underline;
  text-decoration-color: var(--brass);
  text-underline-offset: 3px;
}

.ManifestList-name {
  display: flex;
  justify-content: space-between;
  gap: 6px;
  width: 198px;
}

.ManifestList-name span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.ManifestList-name em {
  color: var(--ink-2);
  flex: none;
  font-size: 11px;
  font-style: normal;
}

.ManifestList-name em.trouble {
  color: var(--hull);
  font-weight: 600;
}

.ManifestList-new {
  margin-right: 12px;
  font-size: 11.5px;
}

/* Many lines stand closer, and those out of sight are not laid out. */
.ManifestList.is-dense .ManifestList-line {
  content-visibility: auto;
  contain-intrinsic-height: auto 27px;
  padding: 0 0 1px 13px;
  line-height: 1.2;
}

.ManifestList.is-dense h2 {
  margin-top: 8px;
}
</style>
