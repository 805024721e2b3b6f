/** What waits, and for whom. */
export interface Waiting {
  person: string
}

/** Jobs that wait, fair between people: they take turns, and each one's own are taken in the order in which they came. */
export class FairQueue<J extends Waiting> {
  /** In the order of their turns. */
  private readonly people = new Map<string, J[]>()
  private count = 0

  get size(): number {
    return this.count
  }

  push(job: J): void {
    const own = this.people.get(job.person)
    if (own) own.push(job)
    else this.people.set(job.person, [job])
    this.count++
  }

  /** Puts a job before all others of its person, whose turn is next. */
  putBack(job: J): void {
    const own = this.people.get(job.person) ?? []
    this.people.delete(job.person)
    const others = [...this.people]
    this.people.clear()
    this.people.set(job.person, [job, ...own])
    for (const [person, jobs] of others) this.people.set(person, jobs)
    this.count++
  }

  /** The next job; its person's turn comes again after everybody else's. */
  take(): J | undefined {
    const [next] = this.people
    if (!next) return undefined
    const [person, [job, ...others]] = next
    this.people.delete(person)
    if (others.length > 0) this.people.set(person, others)
    this.count--
    return job
  }

  /** Takes out what fits, in the order of turns. */
  takeOut(fits: (job: J) => boolean): J[] {
    const out: J[] = []
    for (const [person, jobs] of [...this.people]) {
      const left = jobs.filter((job) => !(fits(job) && out.push(job)))
      if (left.length > 0) this.people.set(person, left)
      else this.people.delete(person)
    }
    this.count -= out.length
    return out
  }

  /** The person with most jobs, who gives way when there are too many, and how many they are. */
  heaviest(): { person: string; jobs: number } | null {
    let found: { person: string; jobs: number } | null = null
    for (const [person, { length }] of this.people) if (!found || length > found.jobs) found = { person, jobs: length }
    return found
  }

  /** Takes out the job of a person that has waited longest. */
  takeOldestOf(person: string): J | undefined {
    const oldest = this.people.get(person)?.[0]
    return oldest && this.takeOut((job) => job === oldest)[0]
  }
}
