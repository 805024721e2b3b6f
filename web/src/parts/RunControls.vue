<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import { count, marketTime, money } from '@/composables/formats'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'

/** Calendars are large: they come when the menu is first opened. */
const RunMenu = defineAsyncComponent(() => import('./RunMenu.vue'))
const isMenuWanted = ref(false)

const market = useMarket()
const session = useSession()

const mayRun = computed(() => session.may('clock'))
const share = computed(() => {
  const { hour, fromHour, targetHour } = market.run
  return targetHour > fromHour ? (hour - fromHour) / (targetHour - fromHour) : 0
})
</script>

<template>
  <div class="RunControls" role="group" aria-label="Market clock">
    <span class="RunControls-label">Market time</span>
    <b v-if="market.run.hour > 0" data-test="clock">{{ marketTime(market.run.hour) }}</b>
    <template v-if="market.run.running">
      <span
        class="RunControls-bar"
        role="progressbar"
        :aria-valuenow="Math.round(share * 100)"
        aria-valuemin="0"
        aria-valuemax="100"
        aria-label="Run">
        <i :style="{ width: `${share * 100}%` }" />
      </span>
      <span class="RunControls-bought"
        ><template v-if="market.run.playing">played: </template>{{ count(market.run.wins) }} bought,
        {{ money(market.run.spendMicros) }}</span
      >
      <button v-if="mayRun" type="button" @click="market.stop()">Stop</button>
    </template>
    <template v-else-if="mayRun">
      <button type="button" @click="market.start(1)">+1 hour</button>
      <button type="button" @click="market.start(24)">+1 day</button>
      <RunMenu v-if="isMenuWanted" />
      <button v-else type="button" aria-expanded="false" @click="isMenuWanted = true">Run to …</button>
    </template>
    <span v-if="market.run.trouble || market.error" class="RunControls-trouble" role="alert">{{ market.run.trouble ?? market.error }}</span>
  </div>
</template>

<style>
.RunControls {
  display: flex;
  align-items: center;
  gap: 8px;
  font-size: 12.5px;
}

.RunControls-label,
.RunControls-bought {
  color: var(--on-deep-2);
  white-space: nowrap;
}

.RunControls b {
  color: var(--field);
  font-weight: 600;
  white-space: nowrap;
}

.RunControls button {
  padding: 3px 8px;
  border: 1px solid var(--deep-rule);
  border-radius: 3px;
  background: none;
  color: var(--on-deep);
  font: 600 11.5px var(--sans);
  white-space: nowrap;
  cursor: pointer;
}

.RunControls button:hover {
  border-color: var(--on-deep);
}

.RunControls-bar {
  width: 84px;
  height: 6px;
  border: 1px solid var(--deep-rule);
}

.RunControls-bar i {
  display: block;
  height: 100%;
  background: var(--gold);
}

.RunControls-trouble {
  max-width: 260px;
  color: var(--hull-on-deep);
  font-size: 12px;
  line-height: 1.2;
}
</style>
