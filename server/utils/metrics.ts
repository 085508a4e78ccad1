import { collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client'
import { stat } from 'node:fs/promises'
import { DELIVERY_STATES, deliveries } from '../../node/store/schema'
import { count } from 'drizzle-orm'
import { openStore } from './store'

/** What Prometheus asks for, in its text format. */
export const registry = new Registry()
collectDefaultMetrics({ register: registry })

const requests = new Histogram({
  name: 'ubblet_request_seconds',
  help: 'Time of requests by method, route and status.',
  labelNames: ['method', 'route', 'status'],
  buckets: [0.005, 0.02, 0.05, 0.1, 0.25, 1, 5, 30],
  registers: [registry],
})
export const measureRequest = (method: string, route: string, status: number, seconds: number): void =>
  requests.observe({ method, route, status: String(status) }, seconds)

new Gauge({
  name: 'ubblet_writes_waiting',
  help: 'Writes that wait for their turn or are under way.',
  registers: [registry],
  collect() {
    this.set(openStore()?.waiting ?? 0)
  },
})
new Gauge({
  name: 'ubblet_database_bytes',
  help: 'Bytes of the database file and its log.',
  labelNames: ['file'],
  registers: [registry],
  async collect() {
    const file = openStore()?.file
    if (!file) return
    for (const [name, path] of [
      ['main', file],
      ['log', `${file}-wal`],
    ] as const) {
      this.set(
        { file: name },
        await stat(path).then(
          s => s.size,
          () => 0,
        ),
      )
    }
  },
})
new Gauge({
  name: 'ubblet_deliveries',
  help: 'Deliveries by their state.',
  labelNames: ['state'],
  registers: [registry],
  async collect() {
    const store = openStore()
    if (!store) return
    const found = await store.rows
      .select({ state: deliveries.state, n: count() })
      .from(deliveries)
      .groupBy(deliveries.state)
    for (const state of DELIVERY_STATES) this.set({ state }, found.find(f => f.state === state)?.n ?? 0)
  },
})
