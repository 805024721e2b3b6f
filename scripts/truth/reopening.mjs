/**
 * The state that a start after a kill makes of stored facts, for lines by the thousand whose only limits are of a day: what was spent, and
 * the small row a line.
 * @param {any} core @param {{ lines: any[], campaigns: any[] }} publication @param {any[]} hours all facts so far @param {any} exposures
 */
export function reopened(core, { lines, campaigns }, hours, exposures) {
  const hour = hours[hours.length - 1].hour + 1
  const states = new Map(hours[hours.length - 1].lineStates.map((/** @type {any} */ state) => [state.line, state]))
  const none = () => ({ micros: 0, impressions: 0 })
  /** @param {string} zone @param {(line: number) => boolean} isOwn */
  const spentAt = (zone, isOwn) => {
    const spent = { day: none(), week: none(), month: none(), total: none() }
    const index = core.zoneIndex(zone)
    const today = core.localDayOf(index, hour)
    for (const facts of hours)
      for (const total of facts.hourTotals) {
        if (!isOwn(total.line)) continue
        const into = core.localDayOf(index, facts.hour) === today ? Object.values(spent) : [spent.week, spent.month, spent.total]
        for (const amounts of into) {
          amounts.micros += total.spendMicros
          amounts.impressions += total.wins
        }
      }
    return spent
  }
  return {
    hour,
    balanceMicros: 1e13 - hours.reduce((sum, facts) => sum + facts.spendMicros, 0),
    exposures,
    lines: new Map(
      lines.map(({ line, zone }) => {
        const { supply, soFar } = states.get(line) ?? {}
        return [line, { spent: spentAt(zone, (other) => other === line), supply, soFar }]
      })
    ),
    campaigns: new Map(campaigns.map(({ campaign, zone }) => [campaign, spentAt(zone, () => true)]))
  }
}
