/**
 * Countries and regions of the stand-in market. Codes are ISO 3166-1 alpha-2 and ISO 3166-2.
 * Weights are made up, roughly after population and online use; prices are relative to 1.
 */
type RegionRow = readonly [code: string, name: string, weight: number, zone?: string]
type CountryRow = readonly [code: string, name: string, tier: 1 | 2 | 3, weight: number, price: number, zone: string, regions: readonly RegionRow[]]

export const COUNTRY_ROWS: readonly CountryRow[] = [
  ['PT', 'Portugal', 2, 42, 0.82, 'Europe/Lisbon', [['PT-11', 'Lisboa', 30], ['PT-13', 'Porto', 26], ['PT-03', 'Braga', 13], ['PT-01', 'Aveiro', 11], ['PT-08', 'Faro', 8]]],
  ['ES', 'Spain', 2, 92, 0.92, 'Europe/Madrid', [['ES-MD', 'Madrid', 26], ['ES-CT', 'Catalonia', 30], ['ES-AN', 'Andalusia', 32], ['ES-VC', 'Valencia', 19], ['ES-CN', 'Canary Islands', 8, 'Atlantic/Canary']]],
  ['FR', 'France', 1, 110, 1.18, 'Europe/Paris', [['FR-IDF', 'Île-de-France', 30], ['FR-ARA', 'Auvergne-Rhône-Alpes', 20], ['FR-OCC', 'Occitanie', 14], ['FR-NAQ', 'Nouvelle-Aquitaine', 14], ['FR-BRE', 'Brittany', 8]]],
  ['DE', 'Germany', 1, 135, 1.35, 'Europe/Berlin', [['DE-NW', 'North Rhine-Westphalia', 24], ['DE-BY', 'Bavaria', 18], ['DE-BW', 'Baden-Württemberg', 15], ['DE-BE', 'Berlin', 8], ['DE-HH', 'Hamburg', 5], ['DE-SN', 'Saxony', 6]]],
  ['AT', 'Austria', 1, 30, 1.25, 'Europe/Vienna', [['AT-9', 'Vienna', 30], ['AT-3', 'Lower Austria', 25], ['AT-6', 'Styria', 20], ['AT-7', 'Tyrol', 12]]],
  ['CH', 'Switzerland', 1, 28, 1.7, 'Europe/Zurich', [['CH-ZH', 'Zürich', 30], ['CH-BE', 'Bern', 20], ['CH-VD', 'Vaud', 16], ['CH-GE', 'Geneva', 11]]],
  ['IT', 'Italy', 2, 96, 0.95, 'Europe/Rome', [['IT-25', 'Lombardy', 30], ['IT-62', 'Lazio', 18], ['IT-72', 'Campania', 17], ['IT-34', 'Veneto', 15], ['IT-82', 'Sicily', 14]]],
  ['NL', 'Netherlands', 1, 48, 1.3, 'Europe/Amsterdam', [['NL-NH', 'North Holland', 26], ['NL-ZH', 'South Holland', 32], ['NL-NB', 'North Brabant', 22], ['NL-UT', 'Utrecht', 12]]],
  ['BE', 'Belgium', 1, 32, 1.12, 'Europe/Brussels', [['BE-VLG', 'Flanders', 58], ['BE-WAL', 'Wallonia', 30], ['BE-BRU', 'Brussels', 12]]],
  ['GB', 'United Kingdom', 1, 118, 1.42, 'Europe/London', [['GB-ENG', 'England', 84], ['GB-SCT', 'Scotland', 8], ['GB-WLS', 'Wales', 5], ['GB-NIR', 'Northern Ireland', 3]]],
  ['IE', 'Ireland', 1, 20, 1.3, 'Europe/Dublin', [['IE-L', 'Leinster', 56], ['IE-M', 'Munster', 27], ['IE-C', 'Connacht', 12]]],
  ['SE', 'Sweden', 1, 34, 1.28, 'Europe/Stockholm', [['SE-AB', 'Stockholm', 40], ['SE-O', 'Västra Götaland', 28], ['SE-M', 'Skåne', 22]]],
  ['DK', 'Denmark', 1, 24, 1.3, 'Europe/Copenhagen', [['DK-84', 'Capital Region', 34], ['DK-82', 'Central Jutland', 24], ['DK-83', 'South Denmark', 22]]],
  ['PL', 'Poland', 2, 72, 0.62, 'Europe/Warsaw', [['PL-14', 'Mazovia', 30], ['PL-24', 'Silesia', 24], ['PL-12', 'Lesser Poland', 19], ['PL-30', 'Greater Poland', 19]]],
  ['US', 'United States', 1, 260, 1.75, 'America/New_York', [['US-CA', 'California', 30, 'America/Los_Angeles'], ['US-TX', 'Texas', 24, 'America/Chicago'], ['US-FL', 'Florida', 18], ['US-NY', 'New York', 17], ['US-IL', 'Illinois', 11, 'America/Chicago'], ['US-CO', 'Colorado', 7, 'America/Denver'], ['US-WA', 'Washington', 8, 'America/Los_Angeles'], ['US-GA', 'Georgia', 9]]],
  ['CA', 'Canada', 1, 52, 1.4, 'America/Toronto', [['CA-ON', 'Ontario', 40], ['CA-QC', 'Quebec', 24], ['CA-BC', 'British Columbia', 15, 'America/Vancouver'], ['CA-AB', 'Alberta', 12, 'America/Denver']]],
  ['MX', 'Mexico', 3, 80, 0.42, 'America/Mexico_City', [['MX-CMX', 'Mexico City', 30], ['MX-MEX', 'State of Mexico', 38], ['MX-JAL', 'Jalisco', 20], ['MX-NLE', 'Nuevo León', 16]]],
  ['BR', 'Brazil', 3, 130, 0.38, 'America/Sao_Paulo', [['BR-SP', 'São Paulo', 44], ['BR-RJ', 'Rio de Janeiro', 18], ['BR-MG', 'Minas Gerais', 20], ['BR-BA', 'Bahia', 14], ['BR-AM', 'Amazonas', 6, 'America/Manaus']]],
  ['AR', 'Argentina', 3, 48, 0.35, 'America/Argentina/Buenos_Aires', [['AR-C', 'Buenos Aires City', 22], ['AR-B', 'Buenos Aires Province', 50], ['AR-X', 'Córdoba', 14], ['AR-S', 'Santa Fe', 13]]],
  ['IN', 'India', 3, 190, 0.24, 'Asia/Kolkata', [['IN-MH', 'Maharashtra', 30], ['IN-DL', 'Delhi', 16], ['IN-KA', 'Karnataka', 20], ['IN-TN', 'Tamil Nadu', 22], ['IN-UP', 'Uttar Pradesh', 34]]],
  ['JP', 'Japan', 1, 100, 1.3, 'Asia/Tokyo', [['JP-13', 'Tokyo', 34], ['JP-27', 'Osaka', 22], ['JP-23', 'Aichi', 18], ['JP-40', 'Fukuoka', 12], ['JP-01', 'Hokkaido', 12]]],
  ['AU', 'Australia', 1, 46, 1.5, 'Australia/Sydney', [['AU-NSW', 'New South Wales', 32], ['AU-VIC', 'Victoria', 26], ['AU-QLD', 'Queensland', 20, 'Australia/Brisbane'], ['AU-WA', 'Western Australia', 11, 'Australia/Perth']]],
  ['ZA', 'South Africa', 3, 44, 0.45, 'Africa/Johannesburg', [['ZA-GP', 'Gauteng', 30], ['ZA-WC', 'Western Cape', 16], ['ZA-KZN', 'KwaZulu-Natal', 22]]],
  ['ID', 'Indonesia', 3, 120, 0.26, 'Asia/Jakarta', [['ID-JK', 'Jakarta', 14], ['ID-JB', 'West Java', 44], ['ID-JI', 'East Java', 36], ['ID-BA', 'Bali', 5, 'Asia/Makassar']]]
]
