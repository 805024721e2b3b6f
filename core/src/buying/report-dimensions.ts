import type { ReportDimensionName } from '../results/index.js'

/** What results can be told apart by, as a page lists it; a test holds it to what the computation knows. */
export const DIMENSION_SETS: readonly { name: string; dimensions: readonly ReportDimensionName[] }[] = [
  { name: 'what', dimensions: ['line', 'ad', 'nth exposure', 'deal'] },
  { name: 'when', dimensions: ['day', 'weekday', 'hour', 'hour of the viewer'] },
  { name: 'where', dimensions: ['country', 'region', 'city', 'postal code'] },
  { name: 'device', dimensions: ['device', 'system', 'browser', 'maker', 'release year', 'price band', 'resolution'] },
  { name: 'connection', dimensions: ['connection', 'carrier', 'provider', 'robots', 'proxies', 'blocked pops'] },
  { name: 'who', dimensions: ['age', 'gender', 'income', 'language', 'employer', 'industry', 'job function', 'audience'] },
  { name: 'context', dimensions: ['category', 'branch of content', 'popularity', 'moment', 'music genre', 'rating'] },
  { name: 'slot', dimensions: ['format', 'class', 'environment', 'size', 'video position', 'skippable', 'rewarded', 'sound'] },
  { name: 'inventory', dimensions: ['source', 'auction', 'seller', 'grade', 'publisher', 'property', 'placement'] }
]
