import { AGES, GENDERS, INCOMES, INDUSTRIES, JOB_FUNCTIONS, LANGUAGES, SEGMENTS, findSegment, languageName } from '../taxonomy/index.js'
import { EMPLOYERS, demographic, inSegment, profileOf, type Profiles } from '../market/index.js'
import { asCalled, attribute, type Restricting, type SegmentGroup, type Telling, type Wanted } from './dimension.js'

/** Whether a profile's segments make a tree true. */
function groupHolds(group: SegmentGroup | string, isIn: (segment: string) => boolean): boolean {
  if (typeof group === 'string') return isIn(group)
  const holds = (part: SegmentGroup | string) => groupHolds(part, isIn)
  return group.join === 'and' ? group.parts.every(holds) : group.join === 'or' ? group.parts.some(holds) : !group.parts.some(holds)
}

/** Segments that a tree or a list names. */
export function segmentsIn({ values, group }: Wanted): readonly string[] {
  const walk = (part: SegmentGroup | string): string[] => (typeof part === 'string' ? [part] : part.parts.flatMap(walk))
  return group ? walk(group) : values
}

function profileTest(wanted: Wanted, profiles: Profiles): (profile: number) => boolean {
  const numbers = new Map(segmentsIn(wanted).map((name) => [name, findSegment(name)?.index as number]))
  const group = wanted.group ?? { join: 'or', parts: [...wanted.values] }
  return (profile) => groupHolds(group, (name) => inSegment(profiles, profile, numbers.get(name) as number))
}

const segmentsByProfile = new WeakMap<Profiles, Map<number, readonly number[]>>()
/** Segments that people of a profile are in. */
function segmentsOf(profiles: Profiles, profile: number): readonly number[] {
  let known = segmentsByProfile.get(profiles)
  if (!known) segmentsByProfile.set(profiles, (known = new Map()))
  let found = known.get(profile)
  if (!found)
    known.set(profile, (found = SEGMENTS.filter((segment) => inSegment(profiles, profile, segment.index)).map((segment) => segment.index)))
  return found
}

export const WHO = {
  age: attribute({
    lane: 'demographic',
    numberOf: (i) => demographic(i).age,
    values: AGES,
    noun: 'age band',
    inOrder: true,
    inFull: ['to people of', 'not to people of'],
    called: asCalled(AGES)
  }),
  gender: attribute({
    lane: 'demographic',
    numberOf: (i) => demographic(i).gender,
    values: GENDERS,
    noun: 'gender',
    inFull: ['to', 'not to'],
    called: asCalled(GENDERS)
  }),
  language: attribute({
    lane: 'tongue',
    numberOf: (i) => i & 31,
    values: LANGUAGES,
    labels: LANGUAGES.map(languageName),
    noun: 'language code',
    inFull: ['to people who speak', 'not to people who speak'],
    said: ['who speak', 'who do not speak'],
    words: languageName,
    names: LANGUAGES.map((code) => [code, languageName(code)]),
    called: LANGUAGES.map((code) => [`${languageName(code)} speakers`, code])
  }),
  income: attribute({
    lane: 'demographic',
    numberOf: (i) => demographic(i).income,
    values: INCOMES,
    noun: 'income band',
    inOrder: true,
    inFull: ['to households of the', 'not to households of the'],
    said: ['of an income that is', 'of an income that is not']
  }),
  employer: attribute({
    lane: 'employer',
    numberOf: (i) => i,
    values: EMPLOYERS.map((employer) => employer.name),
    noun: 'employer',
    inFull: ['to people employed at', 'not to people employed at']
  }),
  industry: attribute({
    lane: 'employer',
    numberOf: (i) => EMPLOYERS[i]?.industry ?? -1,
    values: INDUSTRIES,
    noun: 'industry',
    inFull: ['to people who work in', 'not to people who work in'],
    said: ['who work in', 'who do not work in']
  }),
  'job function': attribute({
    lane: 'job',
    numberOf: (i) => i,
    values: JOB_FUNCTIONS,
    noun: 'job function',
    inFull: ['to people whose work is', 'not to people whose work is'],
    said: ['whose job is', 'whose job is not']
  }),
  segments: {
    restricts: {
      noun: 'segment',
      values: SEGMENTS.map((segment) => segment.name),
      isKnown: (value) => findSegment(value) !== undefined,
      tests: (wanted, { profiles }) => ({ profile: profileTest(wanted, profiles) }),
      inFull: ['to the segments', 'not to the segments'],
      said: ['of', 'none of', 'and'],
      chooser: { by: ['audience'], value: (_, key) => SEGMENTS[key]?.name ?? null }
    } satisfies Restricting
  },
  audience: {
    tells: {
      title: 'segments',
      key: ({ word1 }, { profiles }) => segmentsOf(profiles, profileOf(word1)),
      label: (key) => SEGMENTS[key].name,
      several: true
    } satisfies Telling
  }
}
