import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fitWords, type FilmFit, type PictureFit } from '@tin-harbor/core/creative'
import type { FitView } from '@tin-harbor/core/contract'
import pLimit from 'p-limit'
import { invalidField, unknownObject } from '../http/errors.js'
import type { Deps } from '../deps.js'
import type { Actor } from '../security/sessions.js'
import { fitFilm } from './film-fitting.js'
import type { StoredFile } from './file-model.js'
import { takeData, takeFile } from './library.js'
import { fitPicture } from './picture-fitting.js'

interface Job {
  id: number
  advertiserId: number
  file: number
  words: string
  share: number
  state: FitView['state']
  said: string
  made: number[]
  abort: AbortController
}

/** Jobs that are remembered after they ended. */
const REMEMBERED = 200

/**
 * Makes files fit, one after the other: what is made is a file of its own, the original is not touched. A stopped one, and one that a
 * restart cut off, leaves nothing.
 */
export class FitDesk {
  private readonly oneByOne = pLimit(1)
  private readonly jobs = new Map<number, Job>()
  private next = 1

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
  film(deps: Deps, actor: Actor, file: StoredFile, fit: FilmFit): FitView {
    const { facts, advertiserId, sha256, name } = file
    if (facts.medium === 'picture') throw invalidField('file', 'A picture is cut for slots, not in time.')
    if (fit.from >= (facts.seconds ?? 0)) throw invalidField('from', `The film has ${facts.seconds ?? 0} s.`)
    const whole = { ...fit, to: Math.min(fit.to, facts.seconds ?? fit.to) }
    const words = fitWords(facts, whole)
    return this.begin(file, words, async (job) => {
      const folder = await mkdtemp(join(tmpdir(), 'tin-harbor-fit-'))
      try {
        const target = join(folder, 'made.mp4')
        const { signal } = job.abort
        await fitFilm(deps.store.pathOf(sha256), target, facts, whole, { signal, onShare: (share) => (job.share = share) })
        const made = { from: file.id, how: words }
        const taken = await takeFile(deps, actor, advertiserId, { name: `${bare(name)}, ${words}`, path: target, made })
        return [taken.file.id]
      } finally {
        await rm(folder, { recursive: true, force: true })
      }
    })
  }

  picture(deps: Deps, actor: Actor, file: StoredFile, fit: PictureFit): FitView {
    const { facts, advertiserId, sha256, name } = file
    if (facts.medium !== 'picture') throw invalidField('file', 'Only pictures are cut for slots.')
    if (facts.seconds !== null) throw invalidField('file', 'A picture that moves is kept as it is.')
    const shapes = fit.slots.map(({ shape }) => shape)
    return this.begin(file, `cut for ${shapes.join(', ')}`, async (job) => {
      const pictures = await fitPicture(deps.store.pathOf(sha256), facts, fit)
      const made: number[] = []
      for (const { shape, part, width, height, data } of pictures) {
        if (job.abort.signal.aborted) throw new Error('stopped')
        const how = `cut for ${shape}${part === 'file' ? '' : ` as ${part}`}`
        const called = `${bare(name)} ${width}x${height}`
        made.push((await takeData(deps, actor, advertiserId, { name: called, data, made: { from: file.id, how } })).file.id)
        job.share = made.length / fit.slots.length
      }
      if (made.length < fit.slots.length) job.said = `${fit.slots.length - made.length} could not be made light enough.`
      return made
    })
  }

  private begin({ id: file, advertiserId }: StoredFile, words: string, work: (job: Job) => Promise<number[]>): FitView {
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
    for (const old of [...this.jobs.keys()].slice(0, Math.max(0, this.jobs.size - REMEMBERED))) this.jobs.delete(old)
    void this.oneByOne(async () => {
      const { signal } = job.abort
      try {
        if (signal.aborted) throw new Error('stopped')
        job.state = 'works'
        job.made = await work(job)
        job.state = 'done'
        job.share = 1
      } catch (error) {
        job.state = signal.aborted ? 'stopped' : 'failed'
        job.said = signal.aborted ? 'Stopped; nothing was made.' : wordsOf(error)
      }
    })
    return this.view(job.id)
  }
}

const bare = (name: string) => name.replace(/\.[a-z0-9]{2,4}$/i, '').slice(0, 120)

function wordsOf(error: unknown): string {
  const { issues } = error as { issues?: { message: string }[] }
  if (issues?.[0]) return `What was made cannot be used: ${issues[0].message}`
  return 'It could not be made; the film may be damaged, or too long for what it may weigh.'
}
