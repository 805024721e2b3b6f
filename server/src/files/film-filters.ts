import { cropFor, type FileFacts, type FilmFit } from '@tin-harbor/core/creative'

/** Filter for what is seen. Turns of a flag were done before it: ffmpeg reads films as they are seen. */
export function frameFilter({ width, height }: FileFacts, { frame }: FilmFit): string | null {
  if (!frame || width === null || height === null) return null
  const size = `${frame.width}:${frame.height}`
  if (frame.how === 'pad')
    return `scale=${size}:force_original_aspect_ratio=decrease:force_divisible_by=2,pad=${size}:(ow-iw)/2:(oh-ih)/2,setsar=1`
  const crop = cropFor(width, height, frame.width / frame.height, frame.focal)
  return `crop=${crop.width}:${crop.height}:${crop.left}:${crop.top},scale=${size},setsar=1`
}

/** The moments of a part as an expression over the time, which begins with the part. */
const within = ({ from, moments }: FilmFit) =>
  (moments ?? []).map((one) => `between(t,${(one.from - from).toFixed(3)},${(one.to - from).toFixed(3)})`).join('+')

/** Filter that keeps the marked moments of what is seen, one after the other; null where the whole part is kept. */
export const seenMoments = ({ seen }: FileFacts, fit: FilmFit): string | null =>
  fit.moments ? `select='${within(fit)}',setpts=N/${seen?.framesASecond ?? 25}/TB` : null

/** The same for what is heard. */
export const heardMoments = (fit: FilmFit): string | null => (fit.moments ? `aselect='${within(fit)}',asetpts=N/SR/TB` : null)
