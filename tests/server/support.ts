import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { afterEach, expect } from 'vitest'
import { createClient } from '@libsql/client'
import { writeGlb } from '../../core/exchange/writeGlb'
import { emptyLook, type Look } from '../../core/graph/look'
import type { Preparation } from '../../core/mesh/preparation'
import { endAll, type Server } from '../builtServer'
import { row } from '../helpers'

export { newFolder, Server, type Answer } from '../builtServer'

afterEach(endAll)

/** A connection of another program to the server's database. */
export const another = (server: Server) =>
  createClient({ url: `file:${join(server.folder, 'u.db')}`, concurrency: 1, timeout: 2000 })

export const glb = async (parts: number): Promise<Buffer> => Buffer.from(await writeGlb(row(parts), 'boxes'))

export interface Project {
  id: string
  name: string
  revision: number
  look: Look
  mesh: { hash: string; name: string } | null
  preparation: Preparation
  parts: number
}

/** A project with a mesh of so many boxes. */
export async function project(server: Server, parts = 2, headers: Record<string, string> = {}): Promise<Project> {
  const { json } = await server.ask<Project>('POST', '/api/projects', { name: `${parts} boxes` }, headers)
  const put = await server.ask('PUT', `/api/projects/${json.id}/mesh?name=boxes.glb`, await glb(parts), headers)
  expect(put.status).toBe(200)
  return (await server.ask<Project>('GET', `/api/projects/${json.id}`, undefined, headers)).json
}

export const named = (name: string): Look => ({ ...emptyLook(), name })

export interface Delivery {
  id: string
  state: string
  tries: number
  message: string | null
  share: number
  revision: number
  author: string | null
}

/** Waits until something is so. What takes long is asked for less often: each question costs those who work on it. */
export async function until<T>(what: string, ask: () => Promise<T | undefined | false>, ms = 40_000): Promise<T> {
  const begun = Date.now()
  while (Date.now() < begun + ms) {
    const found = await ask()
    if (found) return found
    await wait(Math.min(250, 20 + (Date.now() - begun) / 10))
  }
  throw new Error(`${what} did not come to be in ${ms} ms`)
}

export const deliveryOf = async (server: Server, id: string, delivery: string): Promise<Delivery> =>
  (await server.get<Delivery[]>(`/api/projects/${id}/deliveries`)).find(d => d.id === delivery)!
export const ended = (server: Server, id: string, delivery: string): Promise<Delivery> =>
  until(
    'the end of a delivery',
    async () => {
      const d = await deliveryOf(server, id, delivery)
      return ['done', 'failed', 'canceled'].includes(d.state) && d
    },
    100_000,
  )
