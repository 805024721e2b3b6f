<script setup lang="ts">
import { computed, ref } from 'vue'
import { CITIES, COUNTRIES, MOST_RADIUS_KM } from '@tin-harbor/core/places'

/** A radius round a point: the cities of a country as dots, the point set by a click or by a city's name. */
export interface RadiusMapProps {
  /** ISO code of the country that is shown first. */
  country: string
}
const props = defineProps<RadiusMapProps>()
const emit = defineEmits<{ add: [code: string] }>()

const WIDTH = 420
const HEIGHT = 260
const code = ref(COUNTRIES.some((one) => one.code === props.country) ? props.country : COUNTRIES[0].code)
const cities = computed(() => CITIES.filter((city) => COUNTRIES[city.country].code === code.value))
/** Degrees that the map shows, wide enough for all cities; a degree of longitude is narrower the farther north. */
const frame = computed(() => {
  const lats = cities.value.map((city) => city.lat / 100)
  const lons = cities.value.map((city) => city.lon / 100)
  const [south, north, west, east] = [Math.min(...lats), Math.max(...lats), Math.min(...lons), Math.max(...lons)]
  const narrow = Math.cos((((south + north) / 2) * Math.PI) / 180)
  const scale = Math.min((WIDTH - 24) / Math.max(0.2, (east - west) * narrow), (HEIGHT - 24) / Math.max(0.2, north - south))
  return { west, north, narrow, scale }
})
const x = (lon: number) => 12 + (lon - frame.value.west) * frame.value.narrow * frame.value.scale
const y = (lat: number) => 12 + (frame.value.north - lat) * frame.value.scale
const point = ref<{ lat: number; lon: number } | null>(null)
const km = ref(25)
/** A degree of latitude is 111 km. */
const radius = computed(() => (km.value / 111.32) * frame.value.scale)
const inside = computed(() =>
  point.value
    ? cities.value.filter(
        (city) => Math.hypot(x(city.lon / 100) - x(point.value?.lon ?? 0), y(city.lat / 100) - y(point.value?.lat ?? 0)) <= radius.value
      ).length
    : 0
)

function onClick(event: MouseEvent) {
  const box = (event.currentTarget as SVGElement).getBoundingClientRect()
  point.value = {
    lon: frame.value.west + (event.clientX - box.left - 12) / frame.value.scale / frame.value.narrow,
    lat: frame.value.north - (event.clientY - box.top - 12) / frame.value.scale
  }
}
function onCity(name: string) {
  const city = cities.value.find((one) => one.name === name)
  if (city) point.value = { lat: city.lat / 100, lon: city.lon / 100 }
}
const onAdd = () => point.value && emit('add', `near:${point.value.lat.toFixed(2)},${point.value.lon.toFixed(2)},${km.value}`)
</script>

<template>
  <div class="RadiusMap">
    <p>
      <label
        >country
        <select v-model="code" class="inline" @change="point = null">
          <option v-for="one in COUNTRIES" :key="one.code" :value="one.code">{{ one.name }}</option>
        </select></label
      >
      <label
        >round
        <select class="inline" data-test="radius-city" @change="onCity(($event.target as HTMLSelectElement).value)">
          <option value="">a point on the map</option>
          <option v-for="city in cities" :key="city.index" :value="city.name">{{ city.name }}</option>
        </select></label
      >
      <label><input v-model.number="km" type="number" min="1" :max="MOST_RADIUS_KM" aria-label="Kilometres" /> km</label>
      <button class="plain" type="button" :disabled="!point || !(km >= 1 && km <= MOST_RADIUS_KM)" data-test="add-radius" @click="onAdd">
        Add
      </button>
      <span v-if="point" class="quiet">{{ inside }} {{ inside === 1 ? 'city lies' : 'cities lie' }} in it</span>
    </p>
    <svg
      :width="WIDTH"
      :height="HEIGHT"
      role="img"
      :aria-label="`Cities of ${code}; choose the middle by name above, or click`"
      @click="onClick">
      <circle
        v-for="city in cities"
        :key="city.index"
        :cx="x(city.lon / 100)"
        :cy="y(city.lat / 100)"
        :r="1 + Math.sqrt(city.weight) / 14"
        fill="#7fb0b5" />
      <circle v-if="point" :cx="x(point.lon)" :cy="y(point.lat)" :r="radius" fill="rgb(169 120 31 / 18%)" stroke="#a9781f" />
    </svg>
  </div>
</template>

<style>
.RadiusMap p {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  font-size: 12px;
}

.RadiusMap input {
  width: 60px;
  border: 1px solid var(--rule);
}

.RadiusMap svg {
  border: 1px solid var(--rule);
  background: #fff;
  cursor: crosshair;
}
</style>
