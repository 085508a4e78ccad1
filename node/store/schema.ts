import { blob, integer, primaryKey, real, sqliteTable, text } from 'drizzle-orm/sqlite-core'

/** Binary files by the SHA-256 of their bytes; written once, never changed. A file is whole when its row is here. */
export const blobs = sqliteTable('blobs', {
  hash: text().primaryKey(),
  type: text().notNull(),
  /** In bytes. */
  size: integer().notNull(),
  /**
   * When it was last put here or referred to anew: younger ones are not given back, though nothing may name them yet.
   */
  used: integer().notNull(),
})

/** The bytes of binary files, in pieces of `CHUNK` bytes, numbered from 0. */
export const chunks = sqliteTable(
  'chunks',
  {
    hash: text().notNull(),
    number: integer().notNull(),
    bytes: blob({ mode: 'buffer' }).notNull(),
  },
  t => [primaryKey({ columns: [t.hash, t.number] })],
)

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
  /** Since when, and by whom, it is locked against changes. */
  locked: integer(),
  lockedBy: text('locked_by'),
  /** Whom it is open to: everybody, or those who are named in `grants`. */
  access: text({ enum: ['all', 'named'] })
    .notNull()
    .default('all'),
  /** Who made it; nobody where nobody signed in. */
  owner: text(),
})

/**
 * The looks of a project, in the order in which they are shown. A removed one can be brought back as long as its
 * revisions are kept.
 */
export const looks = sqliteTable('looks', {
  id: text().primaryKey(),
  project: text()
    .notNull()
    .references(() => projects.id),
  /** As its newest revision has it. */
  name: text().notNull(),
  /** Lower ones stand first. */
  position: integer().notNull(),
  made: integer().notNull(),
  removed: integer(),
  thumbnailHash: text('thumbnail_hash'),
})

/** Sheets of pictures that are kept by name, as JSON. */
export const sheets = sqliteTable(
  'sheets',
  {
    project: text()
      .notNull()
      .references(() => projects.id),
    name: text().notNull(),
    saved: integer().notNull(),
    sheet: text().notNull(),
  },
  t => [primaryKey({ columns: [t.project, t.name] })],
)

/**
 * Every save of one of a project's looks and of how its mesh is prepared (none in revisions from before there was any),
 * with the mesh and the pictures that the project had then. Numbers count up from 1 through all looks of the project.
 */
export const revisions = sqliteTable(
  'revisions',
  {
    project: text()
      .notNull()
      .references(() => projects.id),
    number: integer().notNull(),
    /** Whose save it is: the id of a look. */
    lookId: text('look_id').notNull().default(''),
    saved: integer().notNull(),
    look: text().notNull(),
    preparation: text(),
    meshHash: text('mesh_hash'),
    meshName: text('mesh_name'),
    keysHash: text('keys_hash'),
    triangles: integer(),
    parts: integer(),
    /** As JSON: the name and the hash of each. Nothing where the revision is from before they were kept. */
    pictures: text(),
    thumbnailHash: text('thumbnail_hash'),
    /** Given by somebody: then it is kept for good. */
    name: text(),
    author: text(),
  },
  t => [primaryKey({ columns: [t.project, t.number] })],
)

/** The library of recipes: as JSON, by a title that is not unique. */
export const recipes = sqliteTable('recipes', {
  id: text().primaryKey(),
  title: text().notNull(),
  saved: integer().notNull(),
  recipe: text().notNull(),
})

/** The pictures of a project, by name. */
export const pictures = sqliteTable(
  'pictures',
  {
    project: text()
      .notNull()
      .references(() => projects.id),
    name: text().notNull(),
    hash: text().notNull(),
    added: integer().notNull(),
  },
  t => [primaryKey({ columns: [t.project, t.name] })],
)

/** Pictures of light (Radiance HDR, OpenEXR) that a project keeps for the stage, by name. */
export const lights = sqliteTable(
  'lights',
  {
    project: text()
      .notNull()
      .references(() => projects.id),
    name: text().notNull(),
    hash: text().notNull(),
    added: integer().notNull(),
  },
  t => [primaryKey({ columns: [t.project, t.name] })],
)

/** The dense mesh of a project, from which detail is taken onto its own, and how that is done, as JSON. */
export const denseMeshes = sqliteTable('dense_meshes', {
  project: text()
    .primaryKey()
    .references(() => projects.id),
  name: text().notNull(),
  hash: text().notNull(),
  /** Its key table, as JSON. */
  keysHash: text('keys_hash').notNull(),
  triangles: integer().notNull(),
  parts: integer().notNull(),
  /** Nothing before anything was chosen. */
  setup: text(),
  added: integer().notNull(),
})

/** A picture as the browser decoded it, as PNG, by the hash of its file: where that is another kind, or larger. */
export const decodings = sqliteTable('decodings', {
  hash: text().primaryKey(),
  decoded: text().notNull(),
})

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
  project: text()
    .notNull()
    .references(() => projects.id),
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
  /** The server that makes it, and until when it holds it, unless it says so again. */
  lease: text(),
  leaseUntil: integer('lease_until'),
  author: text(),
  /** How far it is, from 0 to 1, and what is being done, as its server last said. */
  share: real().notNull().default(0),
  what: text().notNull().default(''),
})

/** Settings of deliveries, kept under a name. */
export const presets = sqliteTable('presets', {
  name: text().primaryKey(),
  settings: text().notNull(),
  saved: integer().notNull(),
})

export const ROLES = ['look', 'work', 'manage'] as const
export type Role = (typeof ROLES)[number]
/** Who may sign in. Without any, only this machine is answered, and without asking. */
export const users = sqliteTable('users', {
  name: text().primaryKey(),
  /** Hashed by scrypt, in the PHC string format. */
  password: text().notNull(),
  role: text({ enum: ROLES }).notNull(),
  made: integer().notNull(),
  /** When password or role changed last. */
  changed: integer().notNull(),
})

/** Who is signed in: by the SHA-256 of what stands in the browser's cookie. */
export const sessions = sqliteTable('sessions', {
  id: text().primaryKey(),
  user: text().notNull(),
  made: integer().notNull(),
  ends: integer().notNull(),
})

/** Browsers in which somebody has signed in before, by the SHA-256 of a cookie. */
export const devices = sqliteTable('devices', {
  id: text().primaryKey(),
  user: text().notNull(),
  made: integer().notNull(),
})

/** Tries to sign in, each under the key of the counter that it adds to. */
export const tries = sqliteTable('tries', {
  id: integer().primaryKey(),
  key: text().notNull(),
  at: integer().notNull(),
})

/** Tokens of scripts, by the SHA-256 of what is shown once. */
export const tokens = sqliteTable('tokens', {
  id: text().primaryKey(),
  user: text().notNull(),
  title: text().notNull(),
  hash: text().notNull(),
  made: integer().notNull(),
  used: integer(),
  scope: text({ enum: ['look', 'work'] }).notNull(),
  ends: integer().notNull(),
})

/** Groups of people. */
export const groups = sqliteTable('groups', { name: text().primaryKey() })

/** Who is in which group. */
export const members = sqliteTable('members', { group: text().notNull(), user: text().notNull() }, t => [
  primaryKey({ columns: [t.group, t.user] }),
])

/** Whom a project is open to that is not open to all. */
export const grants = sqliteTable(
  'grants',
  {
    project: text()
      .notNull()
      .references(() => projects.id),
    kind: text({ enum: ['user', 'group'] }).notNull(),
    name: text().notNull(),
    role: text({ enum: ROLES }).notNull(),
  },
  t => [primaryKey({ columns: [t.project, t.kind, t.name] })],
)

/** Who did what to which project. */
export const trail = sqliteTable('trail', {
  id: integer().primaryKey(),
  at: integer().notNull(),
  who: text(),
  token: text(),
  address: text().notNull(),
  did: text().notNull(),
  detail: text(),
  project: text(),
  projectName: text('project_name'),
})

/** The windows in which projects are open, and when each said so last. */
export const presence = sqliteTable(
  'presence',
  {
    project: text().notNull(),
    window: text().notNull(),
    user: text().notNull(),
    seen: integer().notNull(),
  },
  t => [primaryKey({ columns: [t.project, t.window] })],
)
