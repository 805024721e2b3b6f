<script setup lang="ts">
import type { Surrounding } from '@tin-harbor/core/creative'
import type { Shape } from '@tin-harbor/core/taxonomy'

/** A made-up place in paper tones, so that only the ad in it is loud. */
export interface SurroundingsOfProps {
  of: Surrounding
  shape: Shape
}
defineProps<SurroundingsOfProps>()
/** Widths of lines that stand for text, in per cent. */
const LINES = [96, 92, 98, 88, 95, 60, 94, 97, 90, 70]
/** Slots that stand beside the text instead of in it. */
const TALL = new Set<string>(['300x600', '160x600'])
const WIDE = new Set<string>(['728x90', '970x250'])
</script>

<template>
  <div class="SurroundingsOf" :class="`is-${of.replace(' ', '-')}`">
    <template v-if="of === 'article'">
      <i class="SurroundingsOf-head" aria-hidden="true" />
      <div v-if="WIDE.has(shape)" class="SurroundingsOf-slot"><slot /></div>
      <div class="SurroundingsOf-columns">
        <div class="SurroundingsOf-column" aria-hidden="true">
          <i class="SurroundingsOf-title" /><i
            v-for="(width, n) in LINES"
            :key="n"
            class="SurroundingsOf-line"
            :style="{ width: `${width}%` }" />
        </div>
        <div v-if="TALL.has(shape)" class="SurroundingsOf-slot"><slot /></div>
      </div>
      <div v-if="!TALL.has(shape) && !WIDE.has(shape)" class="SurroundingsOf-slot"><slot /></div>
      <div class="SurroundingsOf-column" aria-hidden="true">
        <i v-for="(width, n) in LINES" :key="n" class="SurroundingsOf-line" :style="{ width: `${width}%` }" />
      </div>
    </template>
    <template v-else-if="of === 'feed' || of === 'mail list'">
      <div v-for="n in 2" :key="n" class="SurroundingsOf-post" aria-hidden="true">
        <i class="SurroundingsOf-face" /><span><i class="SurroundingsOf-line" style="width: 55%" /><i class="SurroundingsOf-line" /></span>
      </div>
      <div class="SurroundingsOf-slot"><slot /></div>
      <div v-for="n in of === 'feed' ? 2 : 4" :key="n" class="SurroundingsOf-post" aria-hidden="true">
        <i class="SurroundingsOf-face" /><span
          ><i class="SurroundingsOf-line" style="width: 40%" /><i class="SurroundingsOf-line" style="width: 80%"
        /></span>
      </div>
    </template>
    <template v-else-if="of === 'app' || of === 'lock screen'">
      <i class="SurroundingsOf-bar" aria-hidden="true" />
      <b v-if="of === 'lock screen'" class="SurroundingsOf-clock" aria-hidden="true">21:40</b>
      <div v-else class="SurroundingsOf-column" aria-hidden="true">
        <i v-for="(width, n) in LINES" :key="n" class="SurroundingsOf-line" :style="{ width: `${width}%` }" />
      </div>
      <div class="SurroundingsOf-slot"><slot /></div>
      <i class="SurroundingsOf-bar" aria-hidden="true" />
    </template>
    <template v-else-if="of === 'podcast player'">
      <div class="SurroundingsOf-cover" aria-hidden="true" />
      <i class="SurroundingsOf-line" style="width: 60%" aria-hidden="true" />
      <div class="SurroundingsOf-slot"><slot /></div>
      <p class="small" aria-hidden="true">Episode 12, after this spot</p>
    </template>
    <template v-else-if="of === 'pop window'">
      <p class="SurroundingsOf-address" aria-hidden="true"><i /><i /><span></span></p>
      <div class="SurroundingsOf-slot"><slot /></div>
    </template>
    <template v-else>
      <div class="SurroundingsOf-slot"><slot /></div>
      <template v-if="of === 'player'"
        ><i class="SurroundingsOf-title" aria-hidden="true" /><i class="SurroundingsOf-line" style="width: 50%" aria-hidden="true"
      /></template>
      <i v-else class="SurroundingsOf-foot" aria-hidden="true" />
    </template>
  </div>
</template>

<style>
.SurroundingsOf {
  display: flex;
  flex-direction: column;
  gap: 12px;
  width: max-content;
  min-width: 640px;
  margin: 0 auto;
  padding: 20px 26px;
  border: 1px solid var(--rule);
  background: #f4f1e8;
}

.SurroundingsOf i {
  display: block;
  background: #e2dccb;
}

.SurroundingsOf-head {
  height: 34px;
}

.SurroundingsOf-title {
  width: 70%;
  height: 22px;
  margin-bottom: 6px;
}

.SurroundingsOf-line {
  height: 9px;
  margin-bottom: 6px;
}

.SurroundingsOf-columns {
  display: flex;
  gap: 20px;
}

.SurroundingsOf-column {
  flex: 1;
  min-width: 280px;
}

.SurroundingsOf-slot {
  display: flex;
  justify-content: center;
}

.SurroundingsOf.is-feed,
.SurroundingsOf.is-mail-list {
  min-width: 560px;
}

.SurroundingsOf-post {
  display: flex;
  gap: 12px;
  padding-bottom: 10px;
  border-bottom: 1px solid #e2dccb;
}

.SurroundingsOf-post span {
  flex: 1;
}

.SurroundingsOf-face {
  width: 36px;
  height: 36px;
  border-radius: 50%;
}

.SurroundingsOf.is-app,
.SurroundingsOf.is-lock-screen {
  min-width: 400px;
  padding: 16px 14px;
  border: 8px solid #cfc8b4;
  border-radius: 22px;
}

.SurroundingsOf-bar {
  height: 20px;
}

.SurroundingsOf-clock {
  padding: 34px 0;
  color: #6f6853;
  font: 600 54px/1 var(--sans);
  text-align: center;
}

.SurroundingsOf.is-player,
.SurroundingsOf.is-television {
  min-width: 0;
}

.SurroundingsOf.is-television {
  padding: 14px;
  border: 10px solid #cfc8b4;
}

.SurroundingsOf-foot {
  align-self: center;
  width: 220px;
  height: 12px;
}

.SurroundingsOf.is-podcast-player {
  align-items: center;
  min-width: 420px;
  color: #665f4b;
}

.SurroundingsOf.is-podcast-player .SurroundingsOf-slot {
  align-self: stretch;
}

.SurroundingsOf-cover {
  width: 200px;
  height: 200px;
  background: #e2dccb;
}

.SurroundingsOf-address {
  display: flex;
  gap: 8px;
  align-items: center;
  margin: 0;
}

.SurroundingsOf-address i {
  width: 12px;
  height: 12px;
  border-radius: 50%;
}

.SurroundingsOf-address span {
  flex: 1;
  height: 18px;
  background: #e2dccb;
}

.SurroundingsOf.is-pop-window .AdSight {
  width: 640px;
  height: 360px;
}
</style>
