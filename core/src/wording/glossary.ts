/** A word of ours or of the trade, in one sentence. */
export interface GlossaryEntry {
  term: string
  about: string
}

/** Words that somebody new to this screen may ask about. Pages name them by key, so that a word is explained once. */
export const GLOSSARY = {
  opportunity: {
    term: 'opportunity',
    about: 'One slot on one page that is about to be shown to one person, and that is sold in an auction.'
  },
  matched: {
    term: 'matched',
    about: 'Opportunities that all restrictions, hours and ads of a line let through, before price, caps and budget are asked.'
  },
  wins: { term: 'wins', about: 'Opportunities that a line buys: its bid is best, and its caps, budget and pacing allow it.' },
  shown: { term: 'shown', about: 'Ads that were bought and shown: impressions.' },
  winRate: { term: 'win rate, of matched', about: 'Share of the matched that price alone wins, before caps, budgets and pacing.' },
  bidWins: {
    term: 'your bid wins',
    about: 'Share that the bid above the table would win by price alone, before caps, budgets and pacing.'
  },
  firstTenth: { term: 'wins 1 in 10', about: 'The bid that wins one opportunity in ten: below it hardly anything is to be had.' },
  half: { term: 'wins half', about: 'The bid that wins half of the opportunities, best rival and floor together.' },
  nineInTen: { term: 'wins 9 in 10', about: 'The bid that wins nine opportunities in ten: more buys little more.' },
  rivals: {
    term: 'rivals, at most two',
    about: 'How many others bid for an opportunity, in the mean; no more than the two best are recorded.'
  },
  floor: { term: 'floor', about: 'The least that a publisher takes through a source.' },
  recording: {
    term: 'recorded days',
    about: 'Every opportunity of the last 14 days of one person in 28: surveys and forecasts are counted on them, then scaled up.'
  },
  range: { term: 'range', about: 'In eight of ten cases what really happens lies between the two figures.' },
  grade: { term: 'grade', about: 'A to E: robots (0.4), viewability (0.3) and stays (0.3) of a placement, in fifths of its format.' },
  robots: { term: 'robots', about: 'Share of the showings that no person sees, as measurers publish it.' },
  viewable: { term: 'viewable', about: 'Share that is seen: half of it for one second, of a film for two, as measurers publish it.' },
  views: { term: 'views', about: 'Films and spots that were watched or heard as far as the line counts a view.' },
  visits: { term: 'visits', about: 'Landing pages that opened after a click, a pop or a redirect.' },
  stays: { term: 'stays', about: 'Visitors who were still there after two seconds.' },
  conversions: { term: 'conversions', about: 'What the advertiser counts as a success, told to the click or view that led to it.' },
  assists: { term: 'assists', about: 'Conversions that a line helped to, while another showed the last ad.' },
  timesEach: { term: 'times each', about: 'How often one person was shown it, in the mean.' },
  sieve: {
    term: 'what each restriction leaves',
    about: 'Restrictions in their order: how many opportunities a day are left after each, and how many more came if it alone were lifted.'
  },
  sincePop: { term: 'time since a pop', about: 'Minutes since the same person saw the last pop, whoever showed it.' },
  unwanted: { term: 'robots and proxies', about: 'Robots, people behind proxies, and browsers that hold pops back.' },
  moment: { term: 'moment', about: 'What somebody is probably doing just now, guessed from hour, place and device.' },
  pacing: { term: 'pacing', about: 'How a budget is spread over its day: evenly, with the traffic, or as fast as it can.' },
  aim: { term: 'aim', about: 'What one event may cost: the bid is then set by itself, within the most that you allow.' },
  linkTail: { term: 'added to every link', about: 'Parameters that are put at the end of every landing link of a campaign.' },
  slip: { term: 'slip', about: 'Edits of several lines that go live together, or not at all.' },
  deal: { term: 'deal', about: 'A price that one publisher agreed with you for its own placements.' },
  blind: { term: 'No. and a number', about: 'A source that is sold without a name: nobody is told whose it is, or what it is about.' }
} as const satisfies Record<string, GlossaryEntry>
export type GlossaryTerm = keyof typeof GLOSSARY
