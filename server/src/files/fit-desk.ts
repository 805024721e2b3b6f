import { join } from 'node:path'
import { fitWords, isPlayable, type FileFacts, type FilmFit, type PictureFit, type Spoken } from '@tin-harbor/core/creative'
import type { FitView } from '@tin-harbor/core/contract'
import pLimit from 'p-limit'
import type { Logger } from 'pino'
import { invalidField, tooBusy, unknownObject } from '../http/errors.js'
import type { Actor } from '../security/sessions.js'
import { speakSpot } from '../standins/voice-studio.js'
import { fitFilm } from './film-fitting.js'
import { frameAt, likeness, makeProxy } from './film-looks.js'
import type { StoredFile } from './file-model.js'
import { inWorkFolder } from './jail.js'
import { findFile, takeData, takeFile, type Shelf } from './library.js'
import { fitPicture } from './picture-fitting.js'

interface Job {
  id: number
  advertiserId: number
  file: number | null
  words: string
  share: number
  state: FitView['state']
  said: string
  made: number[]
  abort: AbortController
}

/** Jobs that are remembered after they ended. */
const REMEMBERED = 200
/** How like its original a film should be, by SSIM: less is seen. */
const LEAST_ALIKE = 0.97
/** Jobs that wait at most. */
const MOST_WAITING = 40

/**
 * Makes files fit, one after the other: what is made is a file of its own, the original is not touched. A stopped one, and one that a
 * restart cut off, leaves nothing.
 */
export class FitDesk {
  private readonly oneByOne = pLimit(1)
  private readonly jobs = new Map<number, Job>()
  private next = 1

  constructor(private readonly log: Logger) {}

  /** Whose a job is. @throws where there is none */
  advertiserOf(id: number): number {
    return this.find(id).advertiserId
  }

  view(id: number): FitView {
    const { file, words, share, state, said, made } = this.find(id)
    return { id, file, words, share, state, said, made }
  }

  stop(id: number): FitView {
    const job = this.find(id)
    if (job.state === 'waits' || job.state === 'works') job.abort.abort()
    return this.view(id)
  }

  private find(id: number): Job {
    const job = this.jobs.get(id)
    if (!job) throw unknownObject('fit')
    return job
  }

  /** @throws a field error where the part does not lie in the film */
  film(shelf: Shelf, actor: Actor, file: StoredFile, fit: FilmFit): FitView {
    const { facts, advertiserId, sha256, name } = file
    if (facts.medium === 'picture') throw invalidField('file', 'A picture is cut for slots, not in time.')
    const whole = inFilm(facts, fit)
    const words = fitWords(facts, whole)
    return this.begin(file, words, (job) =>
      inWorkFolder(async (folder) => {
        const [path, target] = [shelf.store.pathOf(sha256), join(folder, 'made.mp4')]
        const { signal } = job.abort
        await fitFilm(path, target, facts, whole, { signal, onShare: (share) => (job.share = share) })
        const alike = await this.likenessOf(path, target, facts, whole, signal)
        signal.throwIfAborted()
        const how = alike === null ? words : `${words}; SSIM ${alike.toFixed(3)}`
        const made = { from: file.id, how }
        const taken = await takeFile(shelf, actor, advertiserId, { name: `${bare(name)}, ${words}`, path: target, made })
        job.made.push(taken.file.id)
        if (alike !== null && alike < LEAST_ALIKE) job.said = unlikeWords(alike)
      })
    )
  }

  /** How like its original a film is; a film that was made is not lost because that cannot be told. */
  private async likenessOf(path: string, made: string, facts: FileFacts, fit: FilmFit, signal: AbortSignal): Promise<number | null> {
    try {
      return await likeness(path, made, facts, fit, signal)
    } catch (err) {
      if (!signal.aborted) this.log.warn({ err }, 'a film could not be held against its original')
      return null
    }
  }

  /** A frame of a film as a picture of its own. */
  frame(shelf: Shelf, actor: Actor, { id, advertiserId, facts, sha256, name }: StoredFile, second: number): FitView {
    if (facts.medium !== 'film') throw invalidField('file', 'Only a film has frames.')
    if (second >= (facts.seconds ?? 0)) throw invalidField('second', `The film has ${facts.seconds ?? 0} s.`)
    const how = `the frame at ${second} s`
    return this.begin({ id, advertiserId }, how, async (job) => {
      const data = await frameAt(shelf.store.pathOf(sha256), second)
      const taken = await takeData(shelf, actor, advertiserId, { name: `${bare(name)}, ${how}`, data, made: { from: id, how } })
      job.made.push(taken.file.id)
    })
  }

  /** What stands in for a film or a sound that browsers do not play. */
  playable({ sequelize, store }: Shelf, { id, advertiserId, facts, sha256 }: StoredFile): FitView {
    if (isPlayable(facts)) throw invalidField('file', 'Browsers play it as it is.')
    return this.begin({ id, advertiserId }, 'made playable', (job) =>
      inWorkFolder(async (folder) => {
        const target = join(folder, 'proxy.mp4')
        await makeProxy(store.pathOf(sha256), facts, target, job.abort.signal)
        const { sha256: proxy } = await store.take(target)
        await sequelize.transaction(async (transaction) => (await findFile(id, transaction)).update({ proxy }, { transaction }))
      })
    )
  }

  /** A spot read by the studio. */
  spoken(shelf: Shelf, actor: Actor, advertiserId: number, spoken: Spoken): FitView {
    const how = `spoken in ${spoken.voice}, ${spoken.seconds} s`
    return this.begin({ id: null, advertiserId }, how, (job) =>
      inWorkFolder(async (folder) => {
        const path = join(folder, 'spot.m4a')
        await speakSpot(spoken, path, job.abort.signal)
        job.made.push((await takeFile(shelf, actor, advertiserId, { name: spoken.name, path, made: { from: null, how } })).file.id)
      })
    )
  }

  picture(shelf: Shelf, actor: Actor, file: StoredFile, fit: PictureFit): FitView {
    const { facts, advertiserId, sha256, name } = file
    if (facts.medium !== 'picture') throw invalidField('file', 'Only pictures are cut for slots.')
    if (facts.seconds !== null) throw invalidField('file', 'A picture that moves is kept as it is.')
    const shapes = fit.slots.map(({ shape }) => shape)
    return this.begin(file, `cut for ${shapes.join(', ')}`, async (job) => {
      const { signal } = job.abort
      const pictures = await fitPicture(shelf.store.pathOf(sha256), facts, fit, { signal, onShare: (share) => (job.share = share) })
      for (const { shape, part, width, height, data } of pictures) {
        const how = `cut for ${shape}${part === 'file' ? '' : ` as ${part}`}`
        const cut = { name: `${bare(name)} ${width}x${height}`, data, made: { from: file.id, how } }
        job.made.push((await takeData(shelf, actor, advertiserId, cut)).file.id)
      }
      if (pictures.length < fit.slots.length) job.said = `${fit.slots.length - pictures.length} could not be made light enough.`
    })
  }

  private begin(
    { id: file, advertiserId }: { id: number | null; advertiserId: number },
    words: string,
    work: (job: Job) => Promise<void>
  ): FitView {
    if (this.oneByOne.pendingCount >= MOST_WAITING) throw tooBusy(`${MOST_WAITING} files wait to be made already; try again in a moment.`)
    const job: Job = {
      id: this.next++,
      advertiserId,
      file,
      words,
      share: 0,
      state: 'waits',
      said: '',
      made: [],
      abort: new AbortController()
    }
    this.jobs.set(job.id, job)
    const over = [...this.jobs.values()].filter(({ state }) => state !== 'waits' && state !== 'works').slice(0, -REMEMBERED)
    for (const old of over) this.jobs.delete(old.id)
    void this.oneByOne(async () => {
      const { signal } = job.abort
      try {
        signal.throwIfAborted()
        job.state = 'works'
        await work(job)
        job.state = 'done'
        job.share = 1
      } catch (error) {
        job.state = signal.aborted ? 'stopped' : 'failed'
        job.said = signal.aborted ? 'Stopped; nothing was made.' : wordsOf(error, job.made.length)
        if (!signal.aborted) this.log.warn({ err: error, file, words }, 'a file could not be made')
      }
    })
    return this.view(job.id)
  }
}

/** The part and the moments of a film that a fit wants. @throws a field error where they do not lie in it */
function inFilm({ seconds }: FileFacts, fit: FilmFit): FilmFit {
  const all = seconds ?? 0
  const { moments } = fit
  if (fit.from >= all) throw invalidField('from', `The film has ${all} s.`)
  if (!moments) return { ...fit, to: Math.min(fit.to, all) }
  if (moments[moments.length - 1].to > all + 0.05) throw invalidField('moments', `The film has ${all} s.`)
  return { ...fit, from: moments[0].from, to: moments[moments.length - 1].to }
}

const unlikeWords = (alike: number) =>
  `Its picture is like the original by ${alike.toFixed(2)} (SSIM), under ${LEAST_ALIKE}: a shorter part or a smaller frame keeps more.`

const bare = (name: string) => name.replace(/\.[a-z0-9]{2,4}$/i, '').slice(0, 120)

function wordsOf(error: unknown, made: number): string {
  const { issues } = error as { issues?: { message: string }[] }
  if (issues?.[0]) return `What was made cannot be used: ${issues[0].message}`
  if (made > 0) return `${made} were made and kept; then it failed.`
  return 'It could not be made; the file may be damaged, or what is wanted too much for what it may weigh.'
}
