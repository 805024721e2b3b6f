import { QueryTypes, type Sequelize } from 'sequelize'

export const name = '0028-reviews'

/**
 * What was sent to the reviewer and to publishers of deals, and what they answered; with which links an ad was cleared, and whose place it
 * takes; deals that a publication leaves out.
 */
export const statements = [
  `CREATE TABLE IF NOT EXISTS ad_review (
    id INT PRIMARY KEY AUTO_INCREMENT, ad_id INT NOT NULL, line_id INT NOT NULL, advertiser_id INT NOT NULL, publisher INT NULL, desk VARCHAR(120) NOT NULL,
    reviewed LONGTEXT NOT NULL, landings LONGTEXT NOT NULL, state VARCHAR(12) NOT NULL, findings LONGTEXT NOT NULL,
    sent_hour INT NOT NULL, by_hour INT NOT NULL, answered_hour INT NULL, sent_by INT NULL,
    KEY review_ad (ad_id), KEY review_line (line_id), KEY review_waits (state, line_id)
  ) ENGINE=InnoDB`,
  'ALTER TABLE ad ADD COLUMN IF NOT EXISTS cleared_landings LONGTEXT NULL, ADD COLUMN IF NOT EXISTS replaces INT NULL',
  'ALTER TABLE publication ADD COLUMN IF NOT EXISTS stopped_deals LONGTEXT NULL'
]

/** Ads that were cleared before there was a reviewer are cleared with the links of their lines. */
export async function run(sequelize: Sequelize): Promise<void> {
  const rows = await sequelize.query<{ id: number; draft: string }>(
    `SELECT a.id, COALESCE(r.draft, l.draft) AS draft FROM ad a JOIN line l ON l.id = a.line_id LEFT JOIN line_revision r ON r.id = l.revision_id
     WHERE a.review = 'cleared' AND a.cleared_landings IS NULL`,
    { type: QueryTypes.SELECT }
  )
  for (const { id, draft } of rows) {
    const { landing = '', ads = [] } = JSON.parse(draft) as { landing?: string; ads?: { ad: number; landing?: string }[] }
    const own = ads.find(({ ad }) => ad === id)?.landing
    const step = (level: string, link: string) => ({ level, landings: [{ countries: [], devices: [], link }] })
    const steps = [...(own ? [step('ad', own)] : []), ...(landing ? [step('line', landing)] : [])]
    await sequelize.query('UPDATE ad SET cleared_landings = ? WHERE id = ?', { replacements: [JSON.stringify(steps), id] })
  }
}
