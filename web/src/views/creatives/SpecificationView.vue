<script setup lang="ts">
import {
  SOURCE_LIMITS,
  SPECIFICATION,
  codecWords,
  ratioWords,
  typeWords,
  weightWords,
  type PartSpecification
} from '@tin-harbor/core/creative'
import { SHAPES } from '@tin-harbor/core/taxonomy'

/** What each slot takes, from the table that checks go by. Pops show a page, not a file. */
const rows = SHAPES.flatMap((shape) => SPECIFICATION[shape].map((one: PartSpecification) => ({ shape, ...one })))
const sizeWords = ({ exact, least, most }: PartSpecification) =>
  exact
    ? `${exact.width}x${exact.height}, or two or three times that`
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
        <tr v-for="row in rows" :key="`${row.shape} ${row.part}`">
          <th scope="row">{{ row.shape }}</th>
          <td>{{ row.part === 'file' ? row.medium : row.part }}</td>
          <td>{{ row.types.map(typeWords).join(', ') }}</td>
          <td>{{ sizeWords(row) }}</td>
          <td>{{ row.ratios.map(ratioWords).join(', ') }}</td>
          <td>{{ lengthWords(row) }}</td>
          <td>{{ heardWords(row) }}</td>
          <td>{{ codecsOf(row) }}</td>
          <td class="figure">{{ weightWords(row.mostBytes) }}</td>
        </tr>
      </tbody>
    </table>
    <h2>Sources that take less</h2>
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

.SpecificationView .figure {
  text-align: right;
}
</style>
