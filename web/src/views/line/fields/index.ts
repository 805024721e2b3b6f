import type { Component } from 'vue'
import type { LinePhraseOf } from '@tin-harbor/core/wording'
import AdjustmentFields from './AdjustmentFields.vue'
import BidFields from './BidFields.vue'
import BuysRow from './BuysRow.vue'
import CapsRow from './CapsRow.vue'
import FlightFields from './FlightFields.vue'
import GapField from './GapField.vue'
import HoursRow from './HoursRow.vue'
import LandingField from './LandingField.vue'
import LimitRows from './LimitRows.vue'
import MaximumField from './MaximumField.vue'
import OnceField from './OnceField.vue'
import PacingField from './PacingField.vue'
import RepeatField from './RepeatField.vue'
import RotationField from './RotationField.vue'
import StepFields from './StepFields.vue'
import ViewField from './ViewField.vue'

/**
 * Where each part of a line is edited, in its clause and in its phrase. The format tells what it drops, and restrictions have choosers
 * of their own.
 */
export const FIELDS: Readonly<Record<Exclude<LinePhraseOf, 'where' | 'restriction' | 'format'>, Component>> = {
  buys: BuysRow,
  flight: FlightFields,
  hours: HoursRow,
  once: OnceField,
  bid: BidFields,
  aim: BidFields,
  maximum: MaximumField,
  view: ViewField,
  repeat: RepeatField,
  adjustments: AdjustmentFields,
  steps: StepFields,
  limits: LimitRows,
  pacing: PacingField,
  rotation: RotationField,
  caps: CapsRow,
  gap: GapField,
  landing: LandingField
}
