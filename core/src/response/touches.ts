/** One thing that a person saw or clicked of an advertiser. */
export interface Touch {
  /** Market minute. */
  minute: number
  clicked: boolean
  viewable: boolean
  /** Hour of the log and place in it: the impression that events point to. */
  hour: number
  index: number
}

export interface Windows {
  clickHours: number
  /** Null where views do not count. */
  viewHours: number | null
}

export interface Earned<T extends Touch> {
  touch: T
  by: 'click' | 'view'
  /** Other touches inside the windows, seen before. */
  assists: T[]
}

/**
 * What earned a conversion: the last click inside the click window, else the last viewable impression inside the view window
 * if views count. Windows are half-open: what is exactly as old as the window is out.
 * @param touches of one person and advertiser, oldest first
 * @returns null when nothing of ours came before it
 */
export function attribute<T extends Touch>(touches: readonly T[], minute: number, { clickHours, viewHours }: Windows): Earned<T> | null {
  const inClick = (touch: T) => touch.clicked && touch.minute <= minute && touch.minute > minute - clickHours * 60
  const inView = (touch: T) => viewHours !== null && touch.viewable && touch.minute <= minute && touch.minute > minute - viewHours * 60
  const last = (test: (touch: T) => boolean) => {
    for (let n = touches.length - 1; n >= 0; n--) if (test(touches[n])) return touches[n]
    return null
  }
  const click = last(inClick)
  const touch = click ?? last(inView)
  if (!touch) return null
  return {
    touch,
    by: click ? 'click' : 'view',
    assists: touches.filter((other) => other !== touch && other.minute <= touch.minute && (inClick(other) || inView(other)))
  }
}
