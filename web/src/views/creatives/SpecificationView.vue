<script setup lang="ts">
import {
  BESIDE_FILMS,
  DEAL_LIMITS,
  HEAVY_AD,
  SOURCE_LIMITS,
  SPECIFICATION,
  TEXTS,
  codecWords,
  ratioWords,
  typeWords,
  weightWords,
  type PartSpecification
} from '@tin-harbor/core/creative'
import { SHAPES } from '@tin-harbor/core/taxonomy'

/** What each slot takes, from the table that checks go by. Pops show a page, not a file. */
const byTerms = new Map<string, { shapes: string[]; one: PartSpecification }>()
for (const shape of SHAPES)
  for (const one of SPECIFICATION[shape] as readonly PartSpecification[]) {
    // Slots of fixed pixels say the same of all but their pixels, and stand in one row.
    const terms = JSON.stringify({ ...one, exact: one.exact?.times })
    byTerms.set(terms, { one, shapes: [...(byTerms.get(terms)?.shapes ?? []), shape] })
  }
const PART_NAMES: Readonly<Record<string, string>> = { endCard: 'end card' }
const rows = [
  ...[...byTerms].map(([key, { shapes, one }]) => ({ key, slots: shapes.join('; '), ...one })),
  ...BESIDE_FILMS.map((one) => ({ key: `beside ${one.part}`, slots: 'beside a film, in every player', ...one }))
]
const sizeWords = ({ exact, least, most }: PartSpecification) =>
  exact
    ? `the slot’s${exact.times.length > 1 ? ', or two or three times those' : ''}`
    : least && most
      ? `${least.width}x${least.height} to ${most.width}x${most.height}`
      : ''
const heardWords = ({ sound, loudness }: PartSpecification) =>
  sound === 'needed' ? `needed, ${loudness ? `${loudness.least} to ${loudness.most} LUFS` : 'at any loudness'}` : ''
const lengthWords = ({ seconds, movesSeconds, medium }: PartSpecification) =>
  seconds
    ? `${seconds.least} to ${seconds.most} s`
    : medium === 'picture' && movesSeconds !== null
      ? movesSeconds === 0
        ? 'does not move'
        : `moves at most ${movesSeconds} s`
      : ''
const texts = Object.entries(TEXTS).flatMap(([kind, all]) =>
  Object.values<{ what: string; most: number }>(all).map((one) => ({ kind, ...one }))
)
const deals = Object.entries(DEAL_LIMITS).map(([kind, limits]) => ({ kind, limits }))
const codecsOf = ({ seenCodecs, heardCodecs }: PartSpecification) => [...seenCodecs, ...heardCodecs].map(codecWords).join(', ')
</script>

<template>
  <section class="SpecificationView reading-page" tabindex="0" aria-labelledby="specification-title">
    <h1 id="specification-title">What slots take</h1>
    <p class="SpecificationView-lead">
      Files are held against this table when they are added to the library and when they are put on a line.
    </p>
    <table>
      <thead>
        <tr>
          <th scope="col">slot</th>
          <th scope="col">part</th>
          <th scope="col">files</th>
          <th scope="col">pixels</th>
          <th scope="col">ratio</th>
          <th scope="col">length</th>
          <th scope="col">sound</th>
          <th scope="col">codecs</th>
          <th scope="col" class="figure">weight</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.key">
          <th scope="row" class="SpecificationView-slots">{{ row.slots }}</th>
          <td>{{ row.part === 'file' ? row.medium : (PART_NAMES[row.part] ?? row.part) }}</td>
          <td>{{ row.types.map(typeWords).join(', ') }}</td>
          <td class="SpecificationView-wraps">{{ sizeWords(row) }}</td>
          <td>{{ row.ratios.map(ratioWords).join(', ') }}</td>
          <td>{{ lengthWords(row) }}</td>
          <td>{{ heardWords(row) }}</td>
          <td class="SpecificationView-wraps">{{ codecsOf(row) }}</td>
          <td class="figure">{{ weightWords(row.mostBytes) }}</td>
        </tr>
      </tbody>
    </table>
    <h2>Banners of pages and scripts</h2>
    <p>
      A zip has at most {{ weightWords(HEAVY_AD.bytes) }} unpacked, begins with index.html, says its size in
      <code>&lt;meta name="ad.size" content="width=300,height=250"&gt;</code>, holds all that it shows, reads where a click leads from a
      variable <code>clickTag</code>, and was seen to run without reaching for anything. Browsers unload what takes more than
      {{ weightWords(HEAVY_AD.bytes) }} over the network, {{ HEAVY_AD.secondsOfThirty }} s of the processor in any 30 s, or
      {{ HEAVY_AD.seconds }} s in all, before somebody touches it.
    </p>
    <h2>Texts</h2>
    <table class="SpecificationView-sources">
      <thead>
        <tr>
          <th scope="col">ad</th>
          <th scope="col">text</th>
          <th scope="col" class="figure">letters, as they are seen</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="{ kind, what, most } in texts" :key="`${kind} ${what}`">
          <th scope="row">{{ kind }}</th>
          <td>{{ what.replace('The ', '') }}</td>
          <td class="figure">{{ most }}</td>
        </tr>
      </tbody>
    </table>
    <h2>Sources and deals that take less</h2>
    <table class="SpecificationView-sources">
      <thead>
        <tr>
          <th scope="col">source</th>
          <th scope="col" class="figure">longest film</th>
          <th scope="col" class="figure">longest spot</th>
          <th scope="col" class="figure">heaviest film</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="({ filmSeconds, spotSeconds, filmBytes }, source) in SOURCE_LIMITS" :key="source">
          <th scope="row">{{ source }}</th>
          <td class="figure">{{ filmSeconds }} s</td>
          <td class="figure">{{ spotSeconds }} s</td>
          <td class="figure">{{ weightWords(filmBytes) }}</td>
        </tr>
        <tr v-for="{ kind, limits } in deals" :key="kind">
          <th scope="row">deals at a {{ kind }} price</th>
          <td class="figure">{{ limits.filmSeconds }} s</td>
          <td class="figure">{{ limits.spotSeconds }} s</td>
          <td class="figure">{{ weightWords(limits.filmBytes) }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style>
.SpecificationView h2 {
  margin: 22px 0 4px;
  font: 600 15px/1.3 var(--serif);
}

.SpecificationView-lead {
  font: 14px/1.5 var(--serif);
}

.SpecificationView table {
  border-collapse: collapse;
}

.SpecificationView th,
.SpecificationView td {
  padding: 4px 14px 4px 0;
  border-bottom: 1px solid var(--rule-2);
  text-align: left;
  vertical-align: top;
  white-space: nowrap;
}

.SpecificationView .SpecificationView-slots {
  min-width: 190px;
  white-space: normal;
}

.SpecificationView .SpecificationView-wraps {
  white-space: normal;
}

.SpecificationView p {
  max-width: 820px;
}

.SpecificationView .figure {
  text-align: right;
}
</style>
