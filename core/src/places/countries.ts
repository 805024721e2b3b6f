/**
 * Countries of the stand-in market. Codes are ISO 3166-1 alpha-2. Weights are made up, roughly after population and
 * online use; prices are relative to the middle of tier 1, and two countries of one language differ by half and more;
 * languages carry the share of people who speak them first. In a postal form `#` is a digit and `A` a letter.
 */
type CountryRow = readonly [code: string, name: string, tier: 1 | 2 | 3, weight: number, price: number, postal: string, languages: string]

export const COUNTRY_ROWS: readonly CountryRow[] = [
  ['PT', 'Portugal', 2, 42, 0.5, '####-###', 'pt 94, en 3, fr 3'],
  ['ES', 'Spain', 2, 92, 0.58, '#####', 'es 80, ca 15, en 3, ar 2'],
  ['FR', 'France', 1, 110, 0.92, '#####', 'fr 91, ar 4, pt 2, en 3'],
  ['DE', 'Germany', 1, 135, 1.06, '#####', 'de 88, tr 5, en 4, pl 3'],
  ['AT', 'Austria', 1, 30, 0.7, '####', 'de 90, tr 4, en 6'],
  ['CH', 'Switzerland', 1, 28, 1.3, '####', 'de 62, fr 23, it 8, en 5, pt 2'],
  ['IT', 'Italy', 2, 96, 0.62, '#####', 'it 95, en 2, ar 3'],
  ['NL', 'Netherlands', 1, 48, 1.0, '#### AA', 'nl 89, en 6, tr 3, ar 2'],
  ['BE', 'Belgium', 1, 32, 0.85, '####', 'nl 57, fr 37, en 3, ar 3'],
  ['GB', 'United Kingdom', 1, 118, 1.12, 'A## #AA', 'en 93, pl 3, hi 2, bn 2'],
  ['IE', 'Ireland', 1, 20, 0.95, 'A## AAAA', 'en 91, ga 4, pl 5'],
  ['SE', 'Sweden', 1, 34, 0.98, '### ##', 'sv 89, en 5, ar 6'],
  ['DK', 'Denmark', 1, 24, 1.02, '####', 'da 91, en 6, tr 3'],
  ['PL', 'Poland', 2, 72, 0.4, '##-###', 'pl 97, en 2, de 1'],
  ['US', 'United States', 1, 260, 1.52, '#####', 'en 82, es 15, fr 1, ar 2'],
  ['CA', 'Canada', 1, 52, 1.04, 'A#A #A#', 'en 74, fr 21, hi 3, es 2'],
  ['MX', 'Mexico', 3, 80, 0.25, '#####', 'es 97, en 3'],
  ['BR', 'Brazil', 3, 130, 0.21, '#####-###', 'pt 98, es 1, en 1'],
  ['AR', 'Argentina', 3, 48, 0.17, 'A####AAA', 'es 97, it 1, en 2'],
  ['IN', 'India', 3, 190, 0.13, '######', 'hi 46, bn 14, mr 12, ta 12, en 16'],
  ['JP', 'Japan', 1, 100, 1.0, '###-####', 'ja 98, en 1, pt 1'],
  ['AU', 'Australia', 1, 46, 1.1, '####', 'en 92, hi 3, it 2, ar 3'],
  ['ZA', 'South Africa', 3, 44, 0.24, '####', 'en 30, zu 30, xh 20, af 20'],
  ['ID', 'Indonesia', 3, 120, 0.14, '#####', 'id 68, jv 30, en 2']
]
