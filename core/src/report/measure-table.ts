/** What a report counts of a row, before rates are made of it. Money in micros. */
export interface Counted {
  wins: number
  people: number
  viewable: number
  views: number
  overlayClicks: number
  unmutes: number
  shares: number
  clicks: number
  visits: number
  stays: number
  pages: number
  conversions: number
  /** Of them those that the offer does not pay for, and what it pays for the others. */
  unpaid: number
  payMicros: number
  viewConversions: number
  assists: number
  valueMicros: number
  /** What we paid, and what the client is charged for it. */
  spendMicros: number
  chargedMicros: number
  dataMicros: number
  feeMicros: number
}

/** How a measure is written: a whole number, one with decimals, a share of 1, micros, what one of something cost, micros of a thousand. */
export type MeasureKind = 'count' | 'ratio' | 'share' | 'money' | 'price' | 'CPM'

/** One measure of a report: what it is made of, and how tables and files show it. */
export interface ReportMeasure {
  /** Column of a file. */
  name: string
  kind: MeasureKind
  of: (row: Counted) => number
  /** Column of the table on the page, its width in pixels; left out where it stands in the file alone. */
  table?: { name: string; width: number }
  /** Whether it stands in files; rates that a reader can make of what stands there do not. */
  isInFile?: boolean
}

const per = (part: number, whole: number) => (whole > 0 ? part / whole : 0)

/** Every measure of a report, in the order of tables and files. A new one is one entry here. */
export const REPORT_MEASURES = {
  wins: { name: 'shown', kind: 'count', of: (row) => row.wins, table: { name: 'shown', width: 76 } },
  people: { name: 'people', kind: 'count', of: (row) => row.people, table: { name: 'people', width: 74 } },
  frequency: { name: 'frequency', kind: 'ratio', of: (row) => per(row.wins, row.people), table: { name: 'times each', width: 88 } },
  viewable: { name: 'viewable', kind: 'count', of: (row) => row.viewable },
  viewableShare: {
    name: 'viewable share',
    kind: 'share',
    of: (row) => per(row.viewable, row.wins),
    table: { name: 'viewable', width: 80 },
    isInFile: false
  },
  views: { name: 'views', kind: 'count', of: (row) => row.views, table: { name: 'views', width: 64 } },
  viewCost: {
    name: 'cost per view',
    kind: 'price',
    of: (row) => per(row.spendMicros, row.views),
    table: { name: 'a view', width: 72 },
    isInFile: false
  },
  overlayClicks: { name: 'overlay clicks', kind: 'count', of: (row) => row.overlayClicks },
  unmutes: { name: 'unmuted', kind: 'count', of: (row) => row.unmutes },
  shares: { name: 'shared', kind: 'count', of: (row) => row.shares },
  clicks: { name: 'clicks', kind: 'count', of: (row) => row.clicks, table: { name: 'clicks', width: 66 } },
  clickRate: { name: 'click rate', kind: 'share', of: (row) => per(row.clicks, row.wins), isInFile: false },
  visits: { name: 'visits', kind: 'count', of: (row) => row.visits, table: { name: 'visits', width: 62 } },
  visitCost: {
    name: 'cost per visit',
    kind: 'price',
    of: (row) => per(row.spendMicros, row.visits),
    table: { name: 'a visit', width: 60 },
    isInFile: false
  },
  stays: { name: 'stays', kind: 'count', of: (row) => row.stays, table: { name: 'stays', width: 64 } },
  pages: { name: 'pages', kind: 'count', of: (row) => row.pages },
  conversions: { name: 'conversions', kind: 'count', of: (row) => row.conversions, table: { name: 'conv.', width: 66 } },
  unpaid: { name: 'of them unpaid', kind: 'count', of: (row) => row.unpaid, table: { name: 'unpaid', width: 62 } },
  payMicros: { name: 'offer pays', kind: 'money', of: (row) => row.payMicros, table: { name: 'pays', width: 72 } },
  viewConversions: { name: 'of them after a view', kind: 'count', of: (row) => row.viewConversions },
  assists: { name: 'assists', kind: 'count', of: (row) => row.assists, table: { name: 'assists', width: 72 } },
  valueMicros: { name: 'value', kind: 'money', of: (row) => row.valueMicros },
  spendMicros: { name: 'our cost', kind: 'money', of: (row) => row.spendMicros, table: { name: 'our cost', width: 76 } },
  chargedMicros: {
    name: 'client is charged',
    kind: 'money',
    of: (row) => row.chargedMicros,
    table: { name: 'client charged', width: 104 }
  },
  dataMicros: { name: 'data', kind: 'money', of: (row) => row.dataMicros },
  feeMicros: { name: 'source fees', kind: 'money', of: (row) => row.feeMicros },
  cpmMicros: { name: 'our CPM', kind: 'CPM', of: (row) => per(row.spendMicros * 1000, row.wins), table: { name: 'CPM', width: 62 } }
} as const satisfies Record<string, ReportMeasure>
