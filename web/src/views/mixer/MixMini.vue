<script setup lang="ts">
import { TEXTS, cutText, type Mix, type MixCell } from '@tin-harbor/core/creative'

/** One ad of a matrix, small: its picture and texts as they will stand, cut where the slot cuts them. */
export interface MixMiniProps {
  mix: Mix
  cell: MixCell
  picture: string | null
  icon: string | null
}
defineProps<MixMiniProps>()
</script>

<template>
  <span class="MixMini" :class="`is-${mix.kind}`">
    <img v-if="mix.kind === 'notification' && icon" class="MixMini-icon" :src="icon" alt="" loading="lazy" />
    <img v-if="picture" class="MixMini-picture" :src="picture" alt="" loading="lazy" />
    <b>{{ cutText(cell.headline.said, mix.kind === 'native' ? TEXTS.native.headline.most : TEXTS.notification.title.most) }}</b>
    <small>{{ mix.kind === 'native' ? mix.common.brand : cell.text.said }}</small>
  </span>
</template>

<style>
.MixMini {
  display: grid;
  gap: 1px;
  width: 112px;
  padding: 0 0 4px;
  border: 1px solid var(--rule);
  background: var(--field);
  color: var(--ink);
  font: 500 10.5px/1.25 var(--sans);
  text-align: left;
}

.MixMini-picture {
  width: 100%;
  aspect-ratio: 1.91;
  object-fit: cover;
}

.MixMini-icon {
  width: 18px;
  height: 18px;
  margin: 4px 0 0 5px;
}

.MixMini b,
.MixMini small {
  overflow: hidden;
  padding: 0 5px;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.MixMini small {
  color: var(--ink-2);
  font-size: 9.5px;
}
</style>
