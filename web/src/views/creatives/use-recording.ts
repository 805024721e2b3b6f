import { onScopeDispose, ref } from 'vue'

/** Longest recording, seconds: a spot has at most a minute. */
const MOST_SECONDS = 120

/** Records what the microphone hears. @param onDone is given what was recorded, as a file */
export function useRecording(onDone: (file: File) => void) {
  const isRecording = ref(false)
  const seconds = ref(0)
  const error = ref<string | null>(null)
  let recorder: MediaRecorder | null = null
  let timer: ReturnType<typeof setInterval> | undefined

  function letGo() {
    clearInterval(timer)
    isRecording.value = false
    for (const track of recorder?.stream.getTracks() ?? []) track.stop()
    recorder = null
  }

  async function record(): Promise<void> {
    error.value = null
    try {
      const stream = await navigator.mediaDevices.getUserMedia({ audio: true })
      const own = new MediaRecorder(stream)
      const pieces: Blob[] = []
      own.addEventListener('dataavailable', ({ data }) => pieces.push(data))
      own.addEventListener('stop', () => {
        const ending = own.mimeType.includes('mp4') ? 'm4a' : 'webm'
        onDone(new File(pieces, `Recording of ${seconds.value} s.${ending}`, { type: own.mimeType }))
        letGo()
      })
      recorder = own
      seconds.value = 0
      own.start()
      isRecording.value = true
      timer = setInterval(() => {
        seconds.value++
        if (seconds.value >= MOST_SECONDS) finish()
      }, 1000)
    } catch (failure) {
      error.value =
        (failure as Error).name === 'NotAllowedError'
          ? 'The browser was not allowed to listen: allow the microphone for this page.'
          : 'There is no microphone that can be used.'
      letGo()
    }
  }
  function finish(): void {
    if (recorder?.state === 'recording') recorder.stop()
  }
  onScopeDispose(letGo)
  return { isRecording, seconds, error, record, finish }
}
