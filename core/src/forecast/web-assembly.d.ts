/** What the core uses of WebAssembly and of text decoding: it is compiled without any platform's own types. */
declare namespace WebAssembly {
  class Module {
    constructor(bytes: Uint8Array)
  }
  class Memory {
    constructor(descriptor: { initial: number; maximum: number })
    readonly buffer: ArrayBuffer
  }
  class Instance {
    constructor(module: Module, imports: object)
    readonly exports: Record<string, unknown>
  }
}
declare function atob(text: string): string
