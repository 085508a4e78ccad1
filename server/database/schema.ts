import { blob, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core'

/** Binary files by the SHA-256 of their bytes; written once, never changed. */
export const blobs = sqliteTable('blobs', {
  hash: text().primaryKey(),
  type: text().notNull(),
  size: integer().notNull(),
  bytes: blob({ mode: 'buffer' }).notNull(),
})

/** Times are milliseconds since 1970. A removed project keeps everything until it is restored or forgotten. */
export const projects = sqliteTable('projects', {
  id: text().primaryKey(),
  name: text().notNull(),
  created: integer().notNull(),
  changed: integer().notNull(),
  removed: integer(),
  meshHash: text('mesh_hash'),
  meshName: text('mesh_name'),
  triangles: integer(),
  parts: integer(),
  thumbnailHash: text('thumbnail_hash'),
  /** The key table of the mesh, as JSON. */
  keysHash: text('keys_hash'),
})

/** Every save of a project's look and of how its mesh is prepared (none in revisions from before there was any). Numbers count up from 1. */
export const revisions = sqliteTable('revisions', {
  project: text().notNull().references(() => projects.id),
  number: integer().notNull(),
  saved: integer().notNull(),
  look: text().notNull(),
  preparation: text(),
}, t => [primaryKey({ columns: [t.project, t.number] })])

/** The library of recipes: as JSON, by a title that is not unique. */
export const recipes = sqliteTable('recipes', {
  id: text().primaryKey(),
  title: text().notNull(),
  saved: integer().notNull(),
  recipe: text().notNull(),
})

/** The pictures of a project, by name. */
export const pictures = sqliteTable('pictures', {
  project: text().notNull().references(() => projects.id),
  name: text().notNull(),
  hash: text().notNull(),
  added: integer().notNull(),
  /** The same picture as the browser decoded it, as PNG, where the file is another kind or larger. */
  decoded: text(),
}, t => [primaryKey({ columns: [t.project, t.name] })])

/** Geometry maps that were computed before, by what they were computed from: 32-bit floats, little-endian. */
export const geometryMaps = sqliteTable('geometry_maps', {
  id: text().primaryKey(),
  hash: text().notNull(),
  made: integer().notNull(),
})

export const DELIVERY_STATES = ['waiting', 'running', 'done', 'failed', 'canceled'] as const
/** Deliveries, by when they were asked for. The files of one that is done lie in a folder of its id. */
export const deliveries = sqliteTable('deliveries', {
  id: text().primaryKey(),
  project: text().notNull().references(() => projects.id),
  name: text().notNull(),
  /** The revision of the look and the preparation that is delivered. */
  revision: integer().notNull(),
  settings: text().notNull(),
  asked: integer().notNull(),
  state: text({ enum: DELIVERY_STATES }).notNull(),
  /** How often it was begun: one that takes the server down is not begun for ever. */
  tries: integer().notNull(),
  /** Why it failed, in one sentence. */
  message: text(),
  started: integer(),
  ended: integer(),
  bytes: integer(),
})

/** Settings of deliveries, kept under a name. */
export const presets = sqliteTable('presets', {
  name: text().primaryKey(),
  settings: text().notNull(),
  saved: integer().notNull(),
})
