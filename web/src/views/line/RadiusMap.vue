<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { geoCircle, geoDistance, geoGraticule10, geoMercator, geoPath, type GeoPermissibleObjects } from 'd3-geo'
import { CITIES, COUNTRIES, MOST_RADIUS_KM } from '@tin-harbor/core/places'

/** A radius round a point: the land, its borders and the cities of a country, the point set by a click or by a city's name. */
export interface RadiusMapProps {
  /** ISO code of the country that is shown first. */
  country: string
}
const props = defineProps<RadiusMapProps>()
const emit = defineEmits<{ add: [code: string] }>()

const WIDTH = 440
const HEIGHT = 320
const EARTH_KM = 6371
/** Degrees round the cities, so that a coast beside them is seen. */
const ROUND = 0.8
const code = ref(COUNTRIES.some((one) => one.code === props.country) ? props.country : COUNTRIES[0].code)
const cities = computed(() => CITIES.filter((city) => COUNTRIES[city.country].code === code.value))

/** Land and borders; they come when the map is asked for. */
const land = shallowRef<{ land: GeoPermissibleObjects; borders: GeoPermissibleObjects } | null>(null)
onMounted(async () => {
  const [{ feature, mesh }, { default: world }] = await Promise.all([import('topojson-client'), import('world-atlas/countries-50m.json')])
  // What the file says its parts are is wider than what they are.
  const atlas = world as unknown as Parameters<typeof mesh>[0]
  const { land: shape, countries } = atlas.objects
  land.value = { land: feature(atlas, shape), borders: mesh(atlas, countries as Parameters<typeof mesh>[1], (a, b) => a !== b) }
})

/** Wide enough for all cities of the country. */
const projection = computed(() => {
  const lats = cities.value.map((city) => city.lat / 100)
  const lons = cities.value.map((city) => city.lon / 100)
  const corners = [
    [Math.min(...lons) - ROUND, Math.min(...lats) - ROUND],
    [Math.max(...lons) + ROUND, Math.max(...lats) + ROUND]
  ]
  return geoMercator()
    .fitExtent(
      [
        [0, 0],
        [WIDTH, HEIGHT]
      ],
      { type: 'MultiPoint', coordinates: corners }
    )
    .clipExtent([
      [-1, -1],
      [WIDTH + 1, HEIGHT + 1]
    ])
})
const pathOf = (shape: GeoPermissibleObjects) => geoPath(projection.value)(shape) ?? ''
const dots = computed(() =>
  cities.value.map((city) => {
    const [x, y] = projection.value([city.lon / 100, city.lat / 100]) ?? [0, 0]
    return { city, x, y, r: 1 + Math.sqrt(city.weight) / 14 }
  })
)
const point = ref<[lon: number, lat: number] | null>(null)
const km = ref(25)
const isGood = computed(() => km.value >= 1 && km.value <= MOST_RADIUS_KM)
const round = computed(() =>
  point.value && isGood.value
    ? geoCircle()
        .center(point.value)
        .radius((km.value / EARTH_KM) * (180 / Math.PI))()
    : null
)
const inside = computed(() => {
  const middle = point.value
  return middle ? cities.value.filter((city) => geoDistance(middle, [city.lon / 100, city.lat / 100]) * EARTH_KM <= km.value).length : 0
})

function onClick(event: MouseEvent) {
  const box = (event.currentTarget as SVGElement).getBoundingClientRect()
  const clicked = projection.value.invert?.([event.clientX - box.left, event.clientY - box.top])
  if (clicked) point.value = clicked
}
function onCity(name: string) {
  const city = cities.value.find((one) => one.name === name)
  if (city) point.value = [city.lon / 100, city.lat / 100]
}
const onAdd = () => point.value && emit('add', `near:${point.value[1].toFixed(2)},${point.value[0].toFixed(2)},${km.value}`)
</script>

<template>
  <div class="RadiusMap">
    <p>
      <label
        >country
        <select v-model="code" @change="point = null">
          <option v-for="one in COUNTRIES" :key="one.code" :value="one.code">{{ one.name }}</option>
        </select></label
      >
      <label
        >round
        <select data-test="radius-city" @change="onCity(($event.target as HTMLSelectElement).value)">
          <option value="">a point on the map</option>
          <option v-for="city in cities" :key="city.index" :value="city.name">{{ city.name }}</option>
        </select></label
      >
      <label><input v-model.number="km" type="number" min="1" :max="MOST_RADIUS_KM" aria-label="Kilometres" /> km</label>
      <button class="plain" type="button" :disabled="!point || !isGood" data-test="add-radius" @click="onAdd">Add</button>
      <span v-if="point" class="quiet">{{ inside }} {{ inside === 1 ? 'city lies' : 'cities lie' }} in it</span>
    </p>
    <svg
      :width="WIDTH"
      :height="HEIGHT"
      role="img"
      :aria-label="`Cities of ${code}; choose the middle by name above, or click`"
      @click="onClick">
      <path class="RadiusMap-lines" :d="pathOf(geoGraticule10())" />
      <template v-if="land">
        <path class="RadiusMap-land" :d="pathOf(land.land)" />
        <path class="RadiusMap-border" :d="pathOf(land.borders)" />
      </template>
      <circle v-for="{ city, x, y, r } in dots" :key="city.index" class="RadiusMap-city" :cx="x" :cy="y" :r="r">
        <title>{{ city.name }}</title>
      </circle>
      <path v-if="round" class="RadiusMap-round" :d="pathOf(round)" />
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
  background: var(--sea);
  cursor: crosshair;
}

.RadiusMap-lines {
  fill: none;
  stroke: var(--sea-rule);
}

.RadiusMap-land {
  fill: var(--paper);
  stroke: var(--water-3);
  stroke-width: 0.8;
}

.RadiusMap-border {
  fill: none;
  stroke: var(--ink-4);
  stroke-dasharray: 3 2;
}

.RadiusMap-city {
  fill: var(--water-2);
}

.RadiusMap-round {
  fill: var(--brass-veil);
  stroke: var(--brass);
  pointer-events: none;
}
</style>
