import { Op, type Transaction } from 'sequelize'
import { filesNamed } from '@tin-harbor/core/creative'
import type { StoredFile } from '../files/file-model.js'
import { Ad, Creative } from './creative-model.js'
import { MadeCreative } from './made-creative-model.js'

/** What shows a file: pictures, ads made of parts, and the ads on lines that are one of these, also those that were taken off. */
export async function showing(
  { advertiserId, sha256 }: Pick<StoredFile, 'advertiserId' | 'sha256'>,
  transaction?: Transaction
): Promise<{ pictures: Creative[]; made: MadeCreative[]; ads: Ad[] }> {
  const pictures = await Creative.findAll({ where: { advertiserId, sha256 }, transaction })
  const all = await MadeCreative.findAll({ where: { advertiserId }, transaction })
  const made = all.filter((one) => filesNamed(one).some((file) => file.sha256 === sha256))
  const either = [{ creativeId: pictures.map(({ id }) => id) }, { madeCreativeId: made.map(({ id }) => id) }]
  return { pictures, made, ads: await Ad.findAll({ where: { [Op.or]: either }, transaction }) }
}
