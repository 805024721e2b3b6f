import type { PropertyClass } from '../taxonomy/index.js'

export interface Property {
  index: number
  name: string
  /** Domain of a site or newsletter, or the store id of an app; always under `.example`. */
  domain: string
  publisher: number
  class: PropertyClass
  /** Leaf or branch that most of it is about. */
  category: number
  /** A show is music or talk; other classes are neither. */
  show: 'music' | 'podcast' | null
  /** Sells pops only, under numbers: nobody is told what it is. */
  anonymous: boolean
  /** Country it is made in; it is read most there. */
  home: number
  /** Share of traffic, relative. */
  weight: number
}
