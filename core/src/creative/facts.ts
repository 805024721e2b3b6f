/** What a file is, whatever its name says. */
export const MEDIA = ['picture', 'film', 'sound', 'banner'] as const
export type Medium = (typeof MEDIA)[number]

/** The track of a film that is seen. */
export interface SeenTrack {
  codec: string
  kbps: number | null
  framesASecond: number
}

/** The track that is heard. */
export interface HeardTrack {
  codec: string
  kbps: number | null
  channels: number
  /** Samples a second. */
  hertz: number
  /** Integrated loudness by EBU R128, LUFS; null where it was not measured, or of silence, which measures as minus infinity. */
  lufs: number | null
  isSilent: boolean
}

/** What a banner of pages and scripts holds, packed as a zip. */
export interface Banner {
  /** The page that it begins with. */
  entry: string
  files: number
  /** Bytes of all that it holds, unpacked. */
  unpacked: number
  /** Whether it has a variable for where a click leads. */
  hasClick: boolean
  /** Hosts that it tried to reach when it ran under our policy; null where it has not run yet. */
  calls: string[] | null
}

/** What was read from a file's content. */
export interface FileFacts {
  medium: Medium
  /** By content. */
  type: string
  bytes: number
  /** As it is seen: after a flag that turns it. */
  width: number | null
  height: number | null
  /** By how much a flag in the file turns it, degrees clockwise: 0, 90, 180 or 270. */
  turned: number
  /** Of a film, a sound, or a picture that moves. */
  seconds: number | null
  /** How often a picture that moves does; 0 for ever. */
  loops: number | null
  seen: SeenTrack | null
  heard: HeardTrack | null
  /** Whether it says where it was taken. */
  hasPlace: boolean
  banner?: Banner
}

/** A picture that does not move. */
export const stillPicture = (type: string, bytes: number, width: number, height: number): FileFacts => ({
  medium: 'picture',
  type,
  bytes,
  width,
  height,
  turned: 0,
  seconds: null,
  loops: null,
  seen: null,
  heard: null,
  hasPlace: false
})

const PLAYED: Readonly<Record<string, readonly string[]>> = {
  'video/mp4': ['h264', 'vp9', 'av1'],
  'video/webm': ['vp8', 'vp9', 'av1']
}
const HEARD = ['aac', 'mp3', 'opus', 'vorbis', 'pcm_s16le', 'flac']

/** Whether every browser shows or plays a file as it is. */
export function isPlayable({ medium, type, seen, heard }: FileFacts): boolean {
  if (medium !== 'film' && medium !== 'sound') return true
  const isHeard = !heard || HEARD.includes(heard.codec)
  return seen ? (PLAYED[type] ?? []).includes(seen.codec) && isHeard : isHeard
}

/** Bytes of a file that a library takes at all: what does not fit a slot can be made to. */
export const MOST_FILE_BYTES = 400 * 1024 * 1024
export const SVG_REFUSED = 'The file is an SVG, which can run scripts: a PNG of it would be taken.'
