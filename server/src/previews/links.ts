import { createHash, randomBytes } from 'node:crypto'
import type { Sequelize } from 'sequelize'
import type { PreviewLinkMade, PreviewLinkView } from '@tin-harbor/core/contract'
import { AppError, unknownObject } from '../http/errors.js'
import { advertiserOfLine } from '../lines/lines.js'
import { now, type Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { User } from '../team/user-model.js'
import { PreviewLink } from './link-model.js'

const DAY_SECONDS = 86_400
const digestOf = (link: string) => createHash('sha256').update(link).digest('hex')

/** Links of a line that still open, the newest first. */
export async function linksOf(lineId: number): Promise<PreviewLinkView[]> {
  const links = await PreviewLink.findAll({ where: { lineId, revoked: false }, order: [['id', 'DESC']] })
  const open = links.filter(({ expiresAt }) => expiresAt > now())
  const names = new Map(
    (await User.findAll({ where: { id: open.flatMap(({ madeBy }) => madeBy ?? []) } })).map((user) => [user.id, user.name])
  )
  return open.map(({ id, expiresAt, madeBy }) => ({ id, until: expiresAt * 1000, madeBy: names.get(madeBy ?? 0) ?? null }))
}

/** Makes a link that opens for some days: it is told here and never again. */
export async function makeLink(sequelize: Sequelize, actor: Actor, lineId: number, days: number): Promise<PreviewLinkMade> {
  const link = randomBytes(32).toString('base64url')
  const advertiserId = await advertiserOfLine(lineId)
  const expiresAt = now() + days * DAY_SECONDS
  await sequelize.transaction(async (transaction) => {
    const row = await PreviewLink.create({ lineId, digest: digestOf(link), expiresAt, madeBy: actor.id, madeAt: now() }, { transaction })
    await audit(actor, 'show', { kind: 'line', id: lineId, advertiserId }, null, { link: row.id, days }, transaction)
  })
  return { path: `/shown/${link}`, links: await linksOf(lineId) }
}

export async function findLink(id: number): Promise<PreviewLink> {
  const link = await PreviewLink.findByPk(id)
  if (!link) throw unknownObject('link')
  return link
}

/** Closes a link: who has it sees nothing any more. */
export async function revokeLink(sequelize: Sequelize, actor: Actor, id: number): Promise<void> {
  const { lineId } = await findLink(id)
  const advertiserId = await advertiserOfLine(lineId)
  await sequelize.transaction(async (transaction) => {
    const link = await PreviewLink.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
    await link.update({ revoked: true }, { transaction })
    await audit(actor, 'hide', { kind: 'line', id: lineId, advertiserId }, { link: id }, null, transaction)
  })
}

/**
 * The line that a link opens.
 * @throws one answer for whatever does not open: closed, over, or never there
 */
export async function lineShown(link: string): Promise<number> {
  const row = await PreviewLink.findOne({ where: { digest: digestOf(link) } })
  if (!row || row.revoked || row.expiresAt <= now())
    throw new AppError(404, 'closed', 'This link does not open: it is over, or was closed. Whoever gave it to you can give you another.')
  return row.lineId
}
