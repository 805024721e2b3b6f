<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { PLATE_TEXTS, weightWords } from '@tin-harbor/core/creative'
import { api } from '@/api'
import { useLeaveGuard } from '@/composables/use-leave-guard'
import { savingWords } from '@/composables/use-saving'
import StateNote from '@/parts/StateNote.vue'
import { useSession } from '@/stores/session'
import WorkHead from '@/views/creatives/WorkHead.vue'
import PlateMake from './PlateMake.vue'
import PlateParts from './PlateParts.vue'
import { usePlate } from './use-plate'

/** The builder: a plate's parts, and its picture in every size at once, as the server draws it. */
const route = useRoute()
const session = useSession()
const id = computed(() => Number(route.params.plateId))
const editing = usePlate(id)
const { view, plate, drawn, isDrawing, error, refused, saving, change, load } = editing
useLeaveGuard(editing)
const mayDraft = computed(() => session.may('draft'))

const withoutWords = (parts: readonly (keyof typeof PLATE_TEXTS)[]) =>
  parts.length === 0 ? '' : `, no room for ${parts.map((part) => PLATE_TEXTS[part].what.toLowerCase()).join(' and ')}`
const linesOf = (shape: string) => [...new Set((view.value?.made ?? []).filter((one) => one.shape === shape).flatMap(({ lines }) => lines))]
</script>

<template>
  <div class="PlateView WorkPage">
    <StateNote v-if="error || !plate || !view" :error="error" reads="Reading the plate" @retry="load" />
    <template v-else>
      <WorkHead
        :advertiser="view.advertiserId"
        what="plate"
        :name="plate.name"
        :most="60"
        :disabled="!mayDraft"
        stays="The pictures that were made of it"
        :remove="() => api.deletePlate(id)"
        @rename="(name) => change((p) => (p.name = name))">
        <p class="WorkHead-sentence" role="status" data-test="plate-words">
          {{ drawn.filter(({ png }) => png !== null).length }} of {{ plate.sizes.length }} sizes are built
        </p>
        <span class="quiet small" data-test="plate-saving">{{ isDrawing ? 'drawing …' : savingWords(saving) }}</span>
      </WorkHead>
      <p v-for="message in refused" :key="message" class="trouble small" role="alert">{{ message }}</p>
      <div class="PlateView-body">
        <PlateParts :editing="editing" :disabled="!mayDraft" />
        <section class="PlateView-sizes" tabindex="0" aria-label="The picture in every size">
          <figure v-for="one in drawn" :key="one.shape" :class="{ 'is-waiting': isDrawing }">
            <img
              v-if="one.png"
              :src="`data:image/png;base64,${one.png}`"
              :width="one.width"
              :height="one.height"
              :alt="`${one.shape}: ${plate.headline}`" />
            <span v-else class="PlateView-none" :style="{ width: `${one.width}px`, height: `${one.height}px` }">{{ one.problem }}</span>
            <figcaption class="small">
              <b>{{ one.shape }}</b>
              <template v-if="one.png">
                <span class="quiet"
                  >{{ one.times === 1 ? '' : `drawn at ${one.times}x, ` }}{{ weightWords(one.bytes) }}{{ withoutWords(one.without) }}</span
                ></template
              >
              <span v-if="linesOf(one.shape).length > 0">
                on
                {{
                  linesOf(one.shape)
                    .map((line) => `L-${line}`)
                    .join(', ')
                }}</span
              >
            </figcaption>
          </figure>
        </section>
      </div>
      <PlateMake v-if="mayDraft" :key="id" :editing="editing" />
    </template>
  </div>
</template>

<style>
.PlateView-body {
  display: grid;
  flex: 1;
  grid-template-columns: 270px minmax(0, 1fr);
  gap: 24px;
  min-height: 0;
  padding-top: 8px;
}

.PlateView-sizes {
  display: flex;
  flex-wrap: wrap;
  gap: 16px 20px;
  align-content: flex-start;
  align-items: flex-start;
  padding: 1px 1px 20px;
  overflow: auto;
}

.PlateView-sizes figure {
  margin: 0;
}

.PlateView-sizes figcaption {
  display: flex;
  gap: 6px;
}

.PlateView-sizes figure.is-waiting img {
  opacity: 0.6;
}

.PlateView-sizes img,
.PlateView-none {
  display: block;
  outline: 1px solid var(--rule);
}

.PlateView-none {
  display: grid;
  place-items: center;
  padding: 4px;
  overflow: hidden;
  color: var(--hull);
  font: 13px/1.3 var(--serif);
  text-align: center;
}
</style>
