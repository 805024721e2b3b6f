<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import { BubbleMapController, ChoroplethController, ColorScale, GeoFeature, ProjectionScale, SizeScale, topojson } from 'chartjs-chart-geo'
import world from 'world-atlas/countries-110m.json'
import type { SurveyRowView } from '@tin-harbor/core/contract'
import { CITIES, COUNTRIES, REGIONS } from '@tin-harbor/core/places'
import { useChart } from '@/composables/use-chart'
import { COLOURS, Chart } from '@/theme/charts'
import { about, cpm } from '@/composables/formats'

Chart.register(ChoroplethController, BubbleMapController, GeoFeature, ColorScale, SizeScale, ProjectionScale)

/** Countries shaded by volume or price; with one country chosen, its regions as discs on its shape. */
export interface MarketMapProps {
  countries: readonly SurveyRowView[]
  regions: readonly SurveyRowView[]
  /** ISO code of the only country of the sentence. */
  country: string | null
}
const props = defineProps<MarketMapProps>()
const emit = defineEmits<{ choose: [code: string] }>()
const by = ref<'volume' | 'price'>('volume')
const canvas = useTemplateRef('canvas')

interface Shape {
  type: 'Feature'
  properties: { name: string }
}
const shapes = (
  topojson.feature(world as never, (world as never as { objects: { countries: never } }).objects.countries) as unknown as {
    features: Shape[]
  }
).features.filter((one) => one.properties.name !== 'Antarctica')
const NAMES: Readonly<Record<string, string>> = { 'United States': 'United States of America' }
const shapeOf = (name: string) => shapes.find((one) => one.properties.name === (NAMES[name] ?? name))

const valueOf = (row: SurveyRowView) => (by.value === 'volume' ? row.opportunitiesADay : row.halfMicros / 1e6)
const words = (value: number) => (by.value === 'volume' ? `${about(value)} a day` : `half at ${cpm(value * 1e6)}`)
/** Middle of a region: of its places. */
function middleOf(region: number) {
  const own = CITIES.filter((city) => city.region === region)
  return {
    latitude: own.reduce((sum, city) => sum + city.lat, 0) / own.length / 100,
    longitude: own.reduce((sum, city) => sum + city.lon, 0) / own.length / 100
  }
}
const regions = computed(() => props.regions.filter((row) => COUNTRIES[REGIONS[row.key].country].code === props.country))

const COMMON = { plugins: { legend: { display: false } }, layout: { padding: 0 } }

/** A country by itself: its regions as discs on its shape. */
function drawRegions(on: HTMLCanvasElement, country: (typeof COUNTRIES)[number]): Chart {
  const outline = [shapeOf(country.name)].filter((shape) => shape !== undefined)
  return new Chart(on, {
    type: 'bubbleMap' as never,
    data: {
      labels: regions.value.map((row) => row.label),
      datasets: [
        {
          outline,
          showOutline: true,
          outlineBackgroundColor: COLOURS.tin,
          outlineBorderColor: COLOURS.rule,
          backgroundColor: '#2f6f78b0',
          data: regions.value.map((row) => ({ ...middleOf(row.key), value: valueOf(row) }))
        }
      ]
    } as never,
    options: {
      ...COMMON,
      plugins: {
        ...COMMON.plugins,
        tooltip: {
          callbacks: {
            label: (item: { dataIndex: number }) =>
              `${regions.value[item.dataIndex].label}: ${words(valueOf(regions.value[item.dataIndex]))}`
          }
        }
      },
      scales: { projection: { axis: 'x', projection: 'mercator' }, size: { axis: 'x', size: [2, 15], display: false } }
    } as never
  })
}

/** The world, each country shaded. */
function drawCountries(on: HTMLCanvasElement): Chart {
  const rows = new Map(props.countries.map((row) => [shapeOf(COUNTRIES[row.key].name), row]))
  const listed = shapes.map((shape) => ({ shape, row: rows.get(shape) }))
  return new Chart(on, {
    type: 'choropleth' as never,
    data: {
      labels: listed.map(({ shape }) => shape.properties.name),
      datasets: [
        {
          outline: shapes,
          data: listed.map(({ shape, row }) => ({ feature: shape, value: row ? valueOf(row) : Number.NaN })),
          borderColor: COLOURS.paper,
          borderWidth: 0.4
        }
      ]
    } as never,
    options: {
      ...COMMON,
      onClick: (_: unknown, hit: { index: number }[]) => {
        const row = hit[0] ? listed[hit[0].index].row : undefined
        if (row) emit('choose', COUNTRIES[row.key].code)
      },
      plugins: {
        ...COMMON.plugins,
        tooltip: {
          filter: (item: { dataIndex: number }) => listed[item.dataIndex].row !== undefined,
          callbacks: {
            label: (item: { dataIndex: number }) =>
              `${listed[item.dataIndex].shape.properties.name}: ${words(valueOf(listed[item.dataIndex].row as SurveyRowView))}`
          }
        }
      },
      scales: {
        projection: { axis: 'x', projection: 'naturalEarth1' },
        color: {
          axis: 'x',
          interpolate: (share: number) =>
            Number.isNaN(share)
              ? COLOURS.tin
              : `color-mix(in srgb, ${COLOURS.deep} ${Math.round(14 + 86 * Math.sqrt(share))}%, ${COLOURS.tin2})`,
          missing: COLOURS.tin,
          display: false
        }
      }
    } as never
  })
}

useChart(
  canvas,
  (on) => {
    const country = COUNTRIES.find((one) => one.code === props.country)
    return country ? drawRegions(on, country) : drawCountries(on)
  },
  () => [props.countries, props.regions, props.country, by.value]
)
</script>

<template>
  <figure class="MarketMap">
    <figcaption>
      {{ country ? 'Its regions' : 'Countries' }}, by
      <select v-model="by" aria-label="Shade the map by">
        <option value="volume">volume</option>
        <option value="price">price to win half</option>
      </select>
    </figcaption>
    <div>
      <canvas
        ref="canvas"
        role="img"
        :aria-label="
          (country ? regions : countries)
            .slice(0, 8)
            .map((row) => `${row.label}: ${words(valueOf(row))}`)
            .join('; ')
        " />
    </div>
  </figure>
</template>

<style>
.MarketMap {
  margin: 0;
}

.MarketMap figcaption {
  margin-bottom: 3px;
  color: var(--ink-2);
  font-size: 12px;
}

.MarketMap div {
  position: relative;
  height: 168px;
}
</style>
