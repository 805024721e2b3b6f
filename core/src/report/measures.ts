import { REPORT_MEASURES, type Counted } from './measure-table.js'

export type ReportMeasureName = keyof typeof REPORT_MEASURES
export const REPORT_MEASURE_NAMES = Object.keys(REPORT_MEASURES) as ReportMeasureName[]

/** All measures of a row. */
export const measured = (row: Counted): Record<ReportMeasureName, number> =>
  Object.fromEntries(REPORT_MEASURE_NAMES.map((name) => [name, REPORT_MEASURES[name].of(row)])) as Record<ReportMeasureName, number>
