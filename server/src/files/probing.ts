import { yup } from '@tin-harbor/core/input'
import type { FileFacts, HeardTrack, SeenTrack } from '@tin-harbor/core/creative'
import { READS, jailed } from './jail.js'

const PROBE = { seconds: 20, bytes: 1024 * 1024 }
const LOUDNESS = { seconds: 60, bytes: 1024 * 1024 }
/** Integrated loudness at and under which the measure says that there is nothing to hear. */
const SILENT_LUFS = -69
/** Shortest sound of which a loudness is told: the measure needs 0.4 s. */
const LEAST_HEARD_SECONDS = 0.5

/** What the probe says of a file, as much of it as is read here. */
const probeSchema = yup.object({
  streams: yup
    .array()
    .of(
      yup.object({
        codec_type: yup.string().required(),
        codec_name: yup.string(),
        width: yup.number(),
        height: yup.number(),
        avg_frame_rate: yup.string(),
        bit_rate: yup.number(),
        channels: yup.number(),
        sample_rate: yup.number(),
        duration: yup.number(),
        tags: yup.object({ rotate: yup.number() }).default(undefined),
        disposition: yup.object({ attached_pic: yup.number() }).default(undefined),
        side_data_list: yup.array().of(yup.object({ rotation: yup.number() }))
      })
    )
    .required(),
  format: yup
    .object({
      format_name: yup.string().required(),
      duration: yup.number(),
      tags: yup.mixed<Record<string, string>>()
    })
    .required()
})
type Stream = NonNullable<yup.InferType<typeof probeSchema>['streams']>[number]

function rateOf(fraction: string | undefined): number {
  const [top, bottom] = (fraction ?? '0/1').split('/').map(Number)
  return bottom > 0 ? top / bottom : 0
}

const kbpsOf = ({ bit_rate: rate }: Stream) => (rate === undefined ? null : Math.round(rate / 1000))

/** By how much a flag turns what is seen, degrees clockwise. */
function turnedOf({ side_data_list: data, tags }: Stream): number {
  // The matrix says it counted the other way.
  const matrix = data?.find((one) => one.rotation !== undefined)?.rotation
  const degrees = matrix === undefined ? (tags?.rotate ?? 0) : -matrix
  return (((Math.round(degrees / 90) * 90) % 360) + 360) % 360
}

/** Loudness over the whole file, by EBU R128. */
async function loudnessOf(path: string): Promise<Pick<HeardTrack, 'lufs' | 'isSilent'>> {
  const args = ['-v', 'info', '-nostats', ...READS, '-i', 'input', '-vn']
  return jailed(path, 'ffmpeg', [...args, '-af', 'ebur128=framelog=verbose', '-f', 'null', '-'], LOUDNESS, ({ stderr }) => {
    const found = [...stderr.matchAll(/^\s+I:\s+(-?[\d.]+) LUFS/gm)].at(-1)
    const lufs = found ? Number(found[1]) : -Infinity
    return lufs <= SILENT_LUFS ? { lufs: null, isSilent: true } : { lufs, isSilent: false }
  })
}

/**
 * What a film or a sound is, by what it holds.
 * @param type by content
 * @throws where it cannot be read
 */
export async function probe(path: string, type: string, bytes: number): Promise<FileFacts> {
  const args = ['-v', 'error', ...READS, '-i', 'input']
  const found = await jailed(path, 'ffprobe', [...args, '-show_format', '-show_streams', '-of', 'json'], PROBE, ({ stdout }) =>
    probeSchema.cast(JSON.parse(stdout), { stripUnknown: true })
  )
  const streams = found.streams.filter(({ disposition }) => !disposition?.attached_pic)
  const seen = streams.find(({ codec_type: kind }) => kind === 'video')
  const heard = streams.find(({ codec_type: kind }) => kind === 'audio')
  const seconds = found.format.duration ?? null
  const turned = seen ? turnedOf(seen) : 0
  const isAcross = turned % 180 !== 0
  const track: SeenTrack | null = seen
    ? { codec: seen.codec_name ?? 'unknown', kbps: kbpsOf(seen), framesASecond: rateOf(seen.avg_frame_rate) }
    : null
  return {
    medium: seen ? 'film' : 'sound',
    type: seen ? type : type.replace(/^video\//, 'audio/'),
    bytes,
    width: (isAcross ? seen?.height : seen?.width) ?? null,
    height: (isAcross ? seen?.width : seen?.height) ?? null,
    turned,
    seconds,
    loops: null,
    seen: track,
    heard: heard
      ? {
          codec: heard.codec_name ?? 'unknown',
          kbps: kbpsOf(heard),
          channels: heard.channels ?? 0,
          hertz: heard.sample_rate ?? 0,
          ...(seconds !== null && seconds < LEAST_HEARD_SECONDS ? { lufs: null, isSilent: false } : await loudnessOf(path))
        }
      : null,
    hasPlace: Object.keys(found.format.tags ?? {}).some((tag) => /location|gps/i.test(tag))
  }
}
