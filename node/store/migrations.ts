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
  [
    // Bytes in pieces of a MiB, so that a large file is read and sent piece by piece.
    `CREATE TABLE chunks (hash TEXT NOT NULL, number INTEGER NOT NULL, bytes BLOB NOT NULL, PRIMARY KEY (hash, number))`,
    `WITH RECURSIVE numbers (i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM numbers WHERE i < 4095)
      INSERT INTO chunks SELECT hash, i, substr(bytes, i * 1048576 + 1, 1048576) FROM blobs JOIN numbers ON i * 1048576 < size`,
    `ALTER TABLE blobs DROP COLUMN bytes`,
    `ALTER TABLE blobs ADD COLUMN used INTEGER NOT NULL DEFAULT 0`,
    // A revision fixes its mesh and pictures. Of older ones only the newest is known to be of the mesh that is there.
    `ALTER TABLE revisions ADD COLUMN mesh_hash TEXT REFERENCES blobs (hash)`,
    `ALTER TABLE revisions ADD COLUMN mesh_name TEXT`,
    `ALTER TABLE revisions ADD COLUMN keys_hash TEXT REFERENCES blobs (hash)`,
    `ALTER TABLE revisions ADD COLUMN triangles INTEGER`,
    `ALTER TABLE revisions ADD COLUMN parts INTEGER`,
    `ALTER TABLE revisions ADD COLUMN pictures TEXT`,
    `ALTER TABLE revisions ADD COLUMN thumbnail_hash TEXT REFERENCES blobs (hash)`,
    `ALTER TABLE revisions ADD COLUMN name TEXT`,
    `ALTER TABLE revisions ADD COLUMN author TEXT`,
    `UPDATE revisions SET
      (mesh_hash, mesh_name, keys_hash, triangles, parts, thumbnail_hash) =
        (SELECT mesh_hash, mesh_name, keys_hash, triangles, parts, thumbnail_hash FROM projects WHERE id = revisions.project),
      pictures = (SELECT json_group_array(json_object('name', name, 'hash', hash)) FROM pictures WHERE project = revisions.project)
      WHERE number = (SELECT MAX(number) FROM revisions AS r WHERE r.project = revisions.project)`,
    `CREATE TABLE decodings (hash TEXT PRIMARY KEY, decoded TEXT NOT NULL REFERENCES blobs (hash))`,
    `INSERT OR IGNORE INTO decodings SELECT hash, decoded FROM pictures WHERE decoded IS NOT NULL`,
    `ALTER TABLE projects ADD COLUMN locked INTEGER`,
    `ALTER TABLE projects ADD COLUMN locked_by TEXT`,
    `ALTER TABLE deliveries ADD COLUMN lease TEXT`,
    `ALTER TABLE deliveries ADD COLUMN lease_until INTEGER`,
    `ALTER TABLE deliveries ADD COLUMN author TEXT`,
    `ALTER TABLE deliveries ADD COLUMN share REAL NOT NULL DEFAULT 0`,
    `ALTER TABLE deliveries ADD COLUMN what TEXT NOT NULL DEFAULT ''`,
    `CREATE TABLE users (name TEXT PRIMARY KEY COLLATE NOCASE, password TEXT NOT NULL, role TEXT NOT NULL, made INTEGER NOT NULL, changed INTEGER NOT NULL)`,
    `CREATE TABLE tokens (
      id TEXT PRIMARY KEY, user TEXT NOT NULL REFERENCES users (name) ON DELETE CASCADE, title TEXT NOT NULL, hash TEXT NOT NULL UNIQUE,
      made INTEGER NOT NULL, used INTEGER)`,
    `CREATE TABLE secrets (name TEXT PRIMARY KEY, value TEXT NOT NULL)`,
    `CREATE TABLE presence (
      project TEXT NOT NULL, window TEXT NOT NULL, user TEXT NOT NULL, seen INTEGER NOT NULL, PRIMARY KEY (project, window))`,
  ],
  [
    `CREATE TABLE lights (
      project TEXT NOT NULL REFERENCES projects (id), name TEXT NOT NULL, hash TEXT NOT NULL REFERENCES blobs (hash), added INTEGER NOT NULL,
      PRIMARY KEY (project, name))`,
  ],
  [
    `CREATE TABLE looks (
      id TEXT PRIMARY KEY, project TEXT NOT NULL REFERENCES projects (id), name TEXT NOT NULL, position INTEGER NOT NULL,
      made INTEGER NOT NULL, removed INTEGER, thumbnail_hash TEXT REFERENCES blobs (hash))`,
    `CREATE INDEX looks_of ON looks (project)`,
    // A project had one look until now: it takes the project's id.
    `INSERT INTO looks SELECT id, id,
      COALESCE((SELECT NULLIF(look ->> '$.name', '') FROM revisions WHERE project = projects.id ORDER BY number DESC LIMIT 1), 'Look'),
      0, created, NULL, thumbnail_hash FROM projects`,
    `ALTER TABLE revisions ADD COLUMN look_id TEXT NOT NULL DEFAULT ''`,
    `UPDATE revisions SET look_id = project`,
    `CREATE TABLE sheets (
      project TEXT NOT NULL REFERENCES projects (id), name TEXT NOT NULL, saved INTEGER NOT NULL, sheet TEXT NOT NULL,
      PRIMARY KEY (project, name))`,
  ],
  [
    `CREATE TABLE dense_meshes (
      project TEXT PRIMARY KEY REFERENCES projects (id), name TEXT NOT NULL, hash TEXT NOT NULL REFERENCES blobs (hash),
      keys_hash TEXT NOT NULL REFERENCES blobs (hash), triangles INTEGER NOT NULL, parts INTEGER NOT NULL, setup TEXT, added INTEGER NOT NULL)`,
  ],
  [
    // Sessions are kept here by the hash of what a browser has: no key lies in the database any more.
    `DELETE FROM secrets`,
    `DROP TABLE secrets`,
    `CREATE TABLE sessions (
      id TEXT PRIMARY KEY, user TEXT NOT NULL REFERENCES users (name) ON DELETE CASCADE, made INTEGER NOT NULL, ends INTEGER NOT NULL)`,
    `CREATE TABLE devices (
      id TEXT PRIMARY KEY, user TEXT NOT NULL REFERENCES users (name) ON DELETE CASCADE, made INTEGER NOT NULL)`,
    `CREATE TABLE tries (id INTEGER PRIMARY KEY, key TEXT NOT NULL, at INTEGER NOT NULL)`,
    `CREATE INDEX tries_by_key ON tries (key)`,
    // Tokens from before may do what they could, for 90 days.
    `ALTER TABLE tokens ADD COLUMN scope TEXT NOT NULL DEFAULT 'work'`,
    `ALTER TABLE tokens ADD COLUMN ends INTEGER NOT NULL DEFAULT 0`,
    `UPDATE tokens SET ends = (unixepoch() + 7776000) * 1000`,
    `CREATE TABLE trail (
      id INTEGER PRIMARY KEY, at INTEGER NOT NULL, who TEXT, token TEXT, address TEXT NOT NULL, did TEXT NOT NULL, detail TEXT,
      project TEXT, project_name TEXT)`,
    `CREATE INDEX trail_of ON trail (project, id)`,
  ],
  [
    `CREATE TABLE groups (name TEXT PRIMARY KEY COLLATE NOCASE)`,
    `CREATE TABLE members (
      "group" TEXT NOT NULL COLLATE NOCASE REFERENCES groups (name), user TEXT NOT NULL COLLATE NOCASE REFERENCES users (name) ON DELETE CASCADE,
      PRIMARY KEY ("group", user))`,
    `ALTER TABLE projects ADD COLUMN access TEXT NOT NULL DEFAULT 'all'`,
    `ALTER TABLE projects ADD COLUMN owner TEXT`,
    `CREATE TABLE grants (
      project TEXT NOT NULL REFERENCES projects (id), kind TEXT NOT NULL, name TEXT NOT NULL COLLATE NOCASE, role TEXT NOT NULL,
      PRIMARY KEY (project, kind, name))`,
  ],
]
