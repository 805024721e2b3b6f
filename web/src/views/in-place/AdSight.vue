<script setup lang="ts">
import { computed } from 'vue'
import { pixelsOf, textsIn } from '@tin-harbor/core/creative'
import type { AdPreview } from '@tin-harbor/core/contract'
import type { Shape } from '@tin-harbor/core/taxonomy'
import FilmSight from './FilmSight.vue'
import { saidBy } from './sights'

/** One ad as a slot shows it, at the pixels of the slot: files as they are served, texts cut where the slot cuts them. */
export interface AdSightProps {
  ad: AdPreview
  shape: Shape
  /** Where the content of a file is. */
  addressOf: (sha256: string, playable: boolean) => string
}
const props = defineProps<AdSightProps>()

const pixels = computed(() => pixelsOf(props.shape))
const said = computed(() => saidBy(props.ad))
const texts = computed(() => textsIn(props.shape, said.value))
const fileAs = (part: string) => props.ad.files.find((file) => file.part === part)
const address = (part: string) => {
  const file = fileAs(part)
  return file ? props.addressOf(file.sha256, file.hasProxy) : null
}
/** Where a pop leads; null for what stands in a page. */
const link = computed(() => (props.ad.kind === 'pop page' || props.ad.kind === 'redirect' ? said.value.link : null))
/** A card is as high as what it says. */
const style = computed(
  () =>
    pixels.value && { width: `${pixels.value.width}px`, ...(props.shape === 'native card' ? {} : { height: `${pixels.value.height}px` }) }
)
</script>

<template>
  <div class="AdSight" :class="`is-${ad.kind.replace(' ', '-')}`" :style="style" :data-shape="shape" data-test="ad-sight">
    <p v-if="link" class="AdSight-link">
      {{ ad.kind === 'redirect' ? 'Visitors are led at once to' : 'A window of its own opens at' }} <b>{{ link }}</b>
    </p>
    <iframe
      v-if="ad.runs"
      :key="ad.runs"
      :src="ad.runs"
      :title="ad.name"
      :width="pixels?.width"
      :height="pixels?.height"
      sandbox="allow-scripts"></iframe>
    <FilmSight
      v-else-if="(ad.kind === 'video' || ad.kind === 'audio') && address('file')"
      :key="ad.id"
      :address="address('file')!"
      :name="ad.name"
      :skip-after="said.skipAfter ? Number(said.skipAfter) : null"
      :is-sound="ad.kind === 'audio'"
      :companion="address('companion')"
      :end-card="address('endCard')"
      :icon="address('icon')"
      :overlay="said.overlay ? { text: said.overlay, from: Number(said.overlayFrom ?? 0) } : null"
      :tagline="said.tagline ?? null"
      :button="said.button ?? null" />
    <template v-else-if="shape === 'native card'">
      <img v-if="address('picture')" class="AdSight-picture" :src="address('picture')!" :alt="fileAs('picture')?.altText" />
      <p class="AdSight-by"><img v-if="address('icon')" :src="address('icon')!" alt="" /> {{ texts.brand }} <small>Advertisement</small></p>
      <b>{{ texts.longHeadline }}</b>
      <p class="AdSight-text">{{ texts.text }}</p>
      <span class="AdSight-button">{{ texts.button }}</span>
    </template>
    <template v-else-if="shape === 'native row'">
      <img v-if="address('icon')" :src="address('icon')!" alt="" />
      <span
        ><b>{{ texts.headline }}</b> <small>Advertisement, {{ texts.brand }}</small
        ><br />{{ texts.text }}</span
      >
    </template>
    <template v-else-if="shape === 'notification'">
      <img v-if="address('icon')" :src="address('icon')!" alt="" />
      <span
        ><b>{{ texts.title }}</b
        ><br />{{ texts.text }}</span
      >
      <img v-if="address('picture')" class="AdSight-wide" :src="address('picture')!" :alt="fileAs('picture')?.altText" />
    </template>
    <img
      v-else-if="address('file')"
      :src="address('file')!"
      :alt="fileAs('file')?.altText"
      :width="pixels?.width"
      :height="pixels?.height" />
    <p v-else class="AdSight-page"><span>Its file is not in the library any more.</span></p>
  </div>
</template>

<style>
.AdSight {
  position: relative;
  flex: none;
  overflow: hidden;
  background: #fff;
  color: #1b2326;
  font: 13px/1.35 var(--sans);
}

.AdSight iframe {
  border: 0;
}

.AdSight.is-audio {
  width: 100%;
}

.AdSight[data-shape='native card'] > b,
.AdSight[data-shape='native card'] > p {
  display: block;
  margin: 4px 12px;
}

.AdSight-picture {
  width: 100%;
  aspect-ratio: 1.91;
  object-fit: cover;
}

.AdSight-by {
  display: flex !important;
  gap: 6px;
  align-items: center;
}

.AdSight-by img {
  width: 18px;
  height: 18px;
}

.AdSight small {
  color: #667075;
}

.AdSight-button {
  display: inline-block;
  margin: 2px 12px;
  padding: 3px 10px;
  margin-bottom: 12px;
  border: 1px solid #1b2326;
  font-weight: 600;
}

.AdSight[data-shape='native row'],
.AdSight[data-shape='notification'] {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 8px 12px;
}

.AdSight[data-shape='native row'] > img,
.AdSight[data-shape='notification'] > img:first-child {
  width: 40px;
  height: 40px;
}

.AdSight[data-shape='notification'] > span {
  flex: 1;
}

.AdSight-wide {
  width: 96px;
  height: 48px;
  object-fit: cover;
}

.AdSight-link {
  padding: 4px 10px;
  overflow: hidden;
  border-bottom: 1px solid #d7dcdf;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.AdSight-page {
  display: grid;
  gap: 6px;
  align-content: center;
  justify-items: center;
  height: 100%;
  min-height: 120px;
  padding: 12px;
  overflow-wrap: anywhere;
  text-align: center;
}
</style>
