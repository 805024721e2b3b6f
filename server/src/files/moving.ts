import { QueryTypes, type Sequelize } from 'sequelize'
import { stillPicture } from '@tin-harbor/core/creative'
import { StoredFile } from './file-model.js'
import type { ContentStore } from './content-store.js'

interface Row {
  id: number
  advertiserId: number
  name: string
  type: string
  width: number
  height: number
  bytes: number
  data: Buffer
}

/**
 * Moves pictures that were kept as rows into the store, one after the other: each is whole in one of the two places at any time, and a
 * start that was cut off goes on with the rest.
 * @returns how many were moved
 */
export async function moveBlobs(sequelize: Sequelize, store: ContentStore): Promise<number> {
  for (let moved = 0; ; moved++) {
    const [row] = await sequelize.query<Row>(
      `SELECT id, advertiser_id AS advertiserId, name, type, width, height, bytes, data
       FROM creative WHERE data IS NOT NULL ORDER BY id LIMIT 1`,
      { type: QueryTypes.SELECT }
    )
    if (!row) return moved
    const { sha256 } = await store.put(row.data)
    await sequelize.transaction(async (transaction) => {
      const { id, advertiserId, name, type, bytes, width, height } = row
      const facts = stillPicture(type, bytes, width, height)
      if (!(await StoredFile.findOne({ where: { advertiserId, sha256 }, transaction })))
        await StoredFile.create({ advertiserId, name, sha256, bytes, medium: 'picture', facts, tags: [], addedHour: 0 }, { transaction })
      await sequelize.query('UPDATE creative SET data = NULL, sha256 = ? WHERE id = ?', { replacements: [sha256, id], transaction })
    })
  }
}
