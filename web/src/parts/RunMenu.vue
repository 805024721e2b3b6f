<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import { ElButton, ElInputNumber, ElOption, ElPopover, ElSelect } from 'element-plus'
import 'element-plus/theme-chalk/el-input-number.css'
import 'element-plus/theme-chalk/el-option.css'
import 'element-plus/theme-chalk/el-popover.css'
import 'element-plus/theme-chalk/el-popper.css'
import 'element-plus/theme-chalk/el-select.css'
import { flightHours } from '@tin-harbor/core/buying'
import { dateOfDay, dayOfDate, localDayOf, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { ORGANISATION_ZONE, marketTime, shortDate } from '@/composables/formats'
import DayField from '@/parts/DayField.vue'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'

/** Longer runs than an hour or a day: to a moment, to the end of a flight, or played. */
const market = useMarket()
const manifest = useManifest()
/** It comes by the click that opens it. */
const isOpen = ref(true)
/** It takes the place of the button that was pressed, and its focus. */
const opener = useTemplateRef<HTMLButtonElement>('opener')
onMounted(() => opener.value?.focus())
const zone = zoneIndex(ORGANISATION_ZONE)
const date = ref<string | null>(null)
const clock = ref(0)
const seconds = ref(2)
const MOST_HOURS = 24 * 366
/** A market that is played goes on for a week, unless it is stopped. */
const PLAYED_HOURS = 7 * 24

watch(
  isOpen,
  async (open) => {
    if (!open) return
    date.value ??= dateOfDay(localDayOf(zone, market.run.hour) + 7)
    await manifest.load()
  },
  { immediate: true }
)

const moment = computed(() => (date.value === null ? null : startOfLocalDay(zone, dayOfDate(date.value)) + clock.value))
const problem = computed(() =>
  moment.value === null
    ? 'Choose a day.'
    : moment.value <= market.run.hour
      ? 'The clock is past that moment.'
      : moment.value > market.run.hour + MOST_HOURS
        ? 'A run takes at most a year.'
        : null
)
const flights = computed(() =>
  manifest.campaigns.flatMap((campaign) => {
    const end =
      campaign.flight.endDate === null
        ? null
        : flightHours(campaign.flight, manifest.advertiserOf(campaign.advertiserId)?.zone ?? 'UTC').endHour
    return end !== null && end > market.run.hour
      ? [{ id: campaign.id, name: `${campaign.name}, to ${shortDate(campaign.flight.endDate ?? '')}`, end }]
      : []
  })
)

function run(to: number, secondsAnHour?: number) {
  isOpen.value = false
  void market.startTo(to, secondsAnHour)
}
</script>

<template>
  <ElPopover v-model:visible="isOpen" placement="bottom-end" :width="330" trigger="click">
    <template #reference
      ><button ref="opener" type="button" :aria-expanded="isOpen" @keydown.esc="isOpen = false">Run to …</button></template
    >
    <div class="RunMenu" role="group" aria-label="Run the market further" @keydown.esc="isOpen = false">
      <h2>To a moment</h2>
      <div class="RunMenu-row">
        <DayField id="run-day" v-model="date" />
        <ElSelect v-model="clock" aria-label="Hour" class="RunMenu-hour" :teleported="false"
          ><ElOption v-for="hour in 24" :key="hour" :value="hour - 1" :label="`${String(hour - 1).padStart(2, '0')}:00`"
        /></ElSelect>
        <ElButton size="small" :disabled="problem !== null" data-test="run-to" @click="run(moment ?? 0)">Run</ElButton>
      </div>
      <p v-if="problem" class="small trouble">{{ problem }}</p>
      <h2>To the end of a flight</h2>
      <p v-if="flights.length === 0" class="small quiet">No campaign has an end ahead.</p>
      <ul v-else>
        <li v-for="flight in flights" :key="flight.id">
          <button class="plain" type="button" @click="run(flight.end)">{{ flight.name }}</button>
        </li>
      </ul>
      <h2>Played</h2>
      <div class="RunMenu-row">
        <span>one hour each</span>
        <ElInputNumber v-model="seconds" :min="0.2" :max="60" :controls="false" aria-label="Seconds an hour" class="RunMenu-seconds" />
        <span>s, for a week</span>
        <ElButton size="small" data-test="play" @click="run(market.run.hour + PLAYED_HOURS, seconds)">Play</ElButton>
      </div>
      <p class="small quiet">The clock shows {{ marketTime(market.run.hour) }} in Lisbon. Everybody sees it move.</p>
    </div>
  </ElPopover>
</template>

<style>
.RunMenu h2 {
  margin: 10px 0 5px;
  color: var(--brass-text);
  font: 600 13px var(--serif);
}

.RunMenu h2:first-child {
  margin-top: 0;
}

.RunMenu-row {
  display: flex;
  gap: 8px;
  align-items: center;
}

.RunMenu-row .el-date-editor.el-input {
  width: 130px;
}

.RunMenu-hour {
  width: 84px;
}

.RunMenu-seconds {
  width: 58px !important;
}

.RunMenu ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

.RunMenu p {
  margin-top: 6px;
}
</style>
