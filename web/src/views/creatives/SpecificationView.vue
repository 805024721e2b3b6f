<script setup lang="ts">
import {
  HEAVY_AD,
  SOURCE_LIMITS,
  SPECIFICATION,
  codecWords,
  typeWords,
  weightWords,
  type PartSpecification
} from '@tin-harbor/core/creative'
import { SHAPES } from '@tin-harbor/core/taxonomy'

/** What each slot takes, from the table that checks go by. Pops show a page, not a file. */
const rows = SHAPES.flatMap((shape) =>
  SPECIFICATION[shape].filter(({ medium }) => medium !== 'banner').map((one: PartSpecification) => ({ shape, ...one }))
)
const sizeWords = ({ exact, least, most }: PartSpecification) =>
  exact
    ? `${exact.width}x${exact.height}, or two or three times that`
    : least && most
      ? `${least.width}x${least.height} to ${most.width}x${most.height}`
      : ''
const RATIOS: readonly [number, string][] = [
  [16 / 9, '16:9'],
  [9 / 16, '9:16'],
  [4 / 3, '4:3'],
  [1, '1:1'],
  [2, '2:1'],
  [1.91, '1.91:1']
]
const ratioWords = ({ ratios }: PartSpecification) =>
  ratios.map((ratio) => RATIOS.find(([value]) => Math.abs(value - ratio) < 0.005)?.[1] ?? String(ratio)).join(', ')
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
  <section class="SpecificationView" tabindex="0" aria-labelledby="specification-title">
    <h1 id="specification-title">What slots take</h1>
    <p class="SpecificationView-lead">
      Files are held against this table when they are chosen, when they are put on a line, and when they are reviewed.
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
          <td>{{ ratioWords(row) }}</td>
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
    <h2>What browsers take down</h2>
    <p>
      An ad that nobody has touched and that loads more than {{ weightWords(HEAVY_AD.bytes) }}, or keeps the processor busy for
      {{ HEAVY_AD.secondsOf30 }} s of any 30 or {{ HEAVY_AD.seconds }} s in all, is emptied by the browser.
    </p>
  </section>
</template>

<style>
.SpecificationView {
  height: 100%;
  padding: 18px 24px 40px;
  overflow: auto;
  background: var(--paper);
}

.SpecificationView h1 {
  font: 600 21px/1.2 var(--serif);
}

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
