import type { FileView, FitView } from '@tin-harbor/core/contract'
import { takeData } from '../../src/files/library.js'
import type { Ask, TestServer } from './server.js'

/** The library of an advertiser, as somebody who is signed in works with it. */
export function libraryOf(server: TestServer, ask: Ask, advertiserId: number) {
  return {
    /** Puts a file into it, as an upload would. */
    added: async (name: string, data: Buffer): Promise<FileView> => {
      const { body: actor } = await ask('GET', '/me')
      return (await takeData(server.deps, actor, advertiserId, { name, data })).file
    },
    fileOf: async (id: number): Promise<FileView> => (await ask<FileView>('GET', `/files/${id}`)).body,
    files: async (): Promise<FileView[]> => (await ask<FileView[]>('GET', `/advertisers/${advertiserId}/files`)).body,
    /** What became of something that is made. */
    ended: async (asked: Promise<{ body: FitView }>): Promise<FitView> => {
      let { body } = await asked
      while (body.state === 'waits' || body.state === 'works') {
        await new Promise((resolve) => setTimeout(resolve, 50))
        body = (await ask<FitView>('GET', `/fits/${body.id}`)).body
      }
      return body
    }
  }
}
export type Library = ReturnType<typeof libraryOf>
