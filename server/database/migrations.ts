/** Each entry runs once, in order, in one transaction. Never change an entry; add another. */
export const MIGRATIONS: readonly string[][] = [
  [
    `CREATE TABLE blobs (hash TEXT PRIMARY KEY, type TEXT NOT NULL, size INTEGER NOT NULL, bytes BLOB NOT NULL)`,
    `CREATE TABLE projects (
      id TEXT PRIMARY KEY, name TEXT NOT NULL, created INTEGER NOT NULL, changed INTEGER NOT NULL, removed INTEGER,
      mesh_hash TEXT REFERENCES blobs (hash), mesh_name TEXT, triangles INTEGER, parts INTEGER,
      thumbnail_hash TEXT REFERENCES blobs (hash))`,
    `CREATE TABLE revisions (
      project TEXT NOT NULL REFERENCES projects (id), number INTEGER NOT NULL, saved INTEGER NOT NULL, look TEXT NOT NULL,
      PRIMARY KEY (project, number))`,
  ],
  [
    `ALTER TABLE projects ADD COLUMN keys_hash TEXT REFERENCES blobs (hash)`,
    `ALTER TABLE revisions ADD COLUMN preparation TEXT`,
    `CREATE TABLE geometry_maps (id TEXT PRIMARY KEY, hash TEXT NOT NULL REFERENCES blobs (hash), made INTEGER NOT NULL)`,
  ],
  [
    `CREATE TABLE recipes (id TEXT PRIMARY KEY, title TEXT NOT NULL, saved INTEGER NOT NULL, recipe TEXT NOT NULL)`,
    `CREATE TABLE pictures (
      project TEXT NOT NULL REFERENCES projects (id), name TEXT NOT NULL, hash TEXT NOT NULL REFERENCES blobs (hash), added INTEGER NOT NULL,
      PRIMARY KEY (project, name))`,
  ],
  [
    `ALTER TABLE pictures ADD COLUMN decoded TEXT REFERENCES blobs (hash)`,
    `CREATE TABLE deliveries (
      id TEXT PRIMARY KEY, project TEXT NOT NULL REFERENCES projects (id), name TEXT NOT NULL, revision INTEGER NOT NULL, settings TEXT NOT NULL,
      asked INTEGER NOT NULL, state TEXT NOT NULL, tries INTEGER NOT NULL, message TEXT, started INTEGER, ended INTEGER, bytes INTEGER)`,
    `CREATE TABLE presets (name TEXT PRIMARY KEY, settings TEXT NOT NULL, saved INTEGER NOT NULL)`,
  ],
]
