import { onScopeDispose, shallowRef } from 'vue'

/** Something that can be done from anywhere on the screen that offers it. */
export interface Command {
  name: string
  /** Keys that do it, as they are said: `Ctrl Z`. */
  keys?: string
  does: () => void
}

const offered = shallowRef<readonly (() => readonly Command[])[]>([])

/** Commands of what is on screen; they go when it does. */
export function offerCommands(commands: () => readonly Command[]): void {
  offered.value = [...offered.value, commands]
  onScopeDispose(() => (offered.value = offered.value.filter((one) => one !== commands)))
}

export const allCommands = (): Command[] => offered.value.flatMap((commands) => commands())
