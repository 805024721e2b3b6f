import { flightHours, termsOfAd, type LineDraft } from '../buying/index.js'
import { dateOfDay, localDayOf, localHourOf, zoneIndex } from '../time/index.js'
import { dateWords } from '../wording/index.js'
import type { Findings } from './collecting.js'
import type { PreflightContext } from './context.js'

/** An hour by the clock of a line. */
function hourWords(hour: number, zone: string): string {
  const index = zoneIndex(zone)
  return `${dateWords(dateOfDay(localDayOf(index, hour)))}, ${localHourOf(index, hour)}:00`
}

/** What whoever looks at the ads would refuse, and whether they will have answered when the line is to start. */
export function review(
  line: LineDraft,
  { refusals = [], answeredBy = null, isLive, nowHour }: PreflightContext,
  { warns }: Findings
): void {
  // What does not fit its slot stops the line already; one link is the same for all its ads.
  const told = refusals.filter(({ ad, rule }) => rule !== 'specification' && !termsOfAd(line, ad).off)
  for (const { value, reason, desk } of uniqueBy(
    told.filter(({ rule }) => rule === 'link'),
    ({ value: seen, desk: who }) => `${who} ${seen}`
  ))
    warns('landing', `${desk} would refuse its ads: ${value}. ${reason}`)
  const ofAds = told.filter(({ rule }) => rule !== 'link')
  for (const { ad, name, rule, reason, desk } of uniqueBy(ofAds, (one) => `${one.ad} ${one.rule} ${one.desk}`)) {
    const values = ofAds.filter((one) => one.ad === ad && one.rule === rule && one.desk === desk).map(({ value }) => value)
    warns('creatives', `${desk} would refuse “${name}”: ${values.join('; ')}. ${reason}`)
  }
  if (answeredBy === null || isLive) return
  const { startHour } = flightHours(line.flight, line.zone)
  if (startHour >= answeredBy) return
  const when = hourWords(answeredBy, line.zone)
  warns(
    'flight.startDate',
    startHour <= nowHour
      ? `Its flight has begun, and its ads are answered by ${when}: it starts then at the latest.`
      : `It would start before its ads are answered, which is by ${when}.`
  )
}

function uniqueBy<T>(all: readonly T[], key: (one: T) => string): T[] {
  const seen = new Set<string>()
  return all.filter((one) => !seen.has(key(one)) && seen.add(key(one)))
}
