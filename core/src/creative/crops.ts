/** A part of a picture, in its pixels. */
export interface Crop {
  left: number
  top: number
  width: number
  height: number
}

/** The point that must stay in sight, as shares of width and height. */
export interface FocalPoint {
  x: number
  y: number
}

const within = (value: number, most: number) => Math.min(Math.max(0, value), Math.max(0, most))

/**
 * The largest part of a picture in a ratio, with the focal point as near to its middle as the edges let it.
 * @param width @param height of the picture, pixels @param ratio width by height of the part
 */
export function cropFor(width: number, height: number, ratio: number, focal: FocalPoint): Crop {
  const wide = Math.min(width, height * ratio)
  const cropWidth = Math.max(1, Math.round(wide))
  const cropHeight = Math.max(1, Math.min(height, Math.round(wide / ratio)))
  return {
    left: Math.round(within(focal.x * width - cropWidth / 2, width - cropWidth)),
    top: Math.round(within(focal.y * height - cropHeight / 2, height - cropHeight)),
    width: cropWidth,
    height: cropHeight
  }
}

/**
 * A part that was chosen by hand, in a ratio: the largest such inside it, in its middle.
 * @param chosen as shares of width and height
 */
export function cropWithin(width: number, height: number, ratio: number, chosen: Crop): Crop {
  const left = within(Math.round(chosen.left * width), width - 1)
  const top = within(Math.round(chosen.top * height), height - 1)
  const wide = within(Math.round(chosen.width * width), width - left) || 1
  const tall = within(Math.round(chosen.height * height), height - top) || 1
  const inside = cropFor(wide, tall, ratio, { x: 0.5, y: 0.5 })
  return { ...inside, left: left + inside.left, top: top + inside.top }
}

/**
 * How many times a slot's pixels a picture has to give: three, two or one, without being enlarged; one where it is too small for any.
 * @param crop of the picture @param slot pixels of the slot @param times that the slot takes
 */
export function densityFor(
  crop: Pick<Crop, 'width' | 'height'>,
  slot: { width: number; height: number },
  times: readonly number[]
): number {
  const fitting = times.filter((time) => crop.width >= slot.width * time && crop.height >= slot.height * time)
  return fitting.length === 0 ? Math.min(...times) : Math.max(...fitting)
}
