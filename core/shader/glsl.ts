import type { OpName, Ref, SurfaceInput } from '../program/ops'
import { isGathered, PART, SURFACE, UNIFORM, VERTEX } from '../program/ops'
import type { Beyond, Mesh } from '../mesh/mesh'
import type { Plan, Stage } from '../program/plan'

/** GLSL ES 3.00 for each primitive, as an expression of its operands. */
const EXPRESSIONS: Record<
  Exclude<OpName, 'draw' | 'row3' | 'worley3' | 'worley3second' | 'worley3cell'>,
  (...x: string[]) => string
> = {
  neg: x => `-${x}`,
  abs: x => `abs(${x})`,
  floor: x => `floor(${x})`,
  fract: x => `fract(${x})`,
  sqrt: x => `sqrt(max(${x}, 0.0))`,
  cbrt: x => `ubCbrt(${x})`,
  sin: x => `sin(${x})`,
  cos: x => `cos(${x})`,
  exp2: x => `exp2(clamp(${x}, -126.0, 127.0))`,
  log2: x => `log2(max(${x}, 1.17549435e-38))`,
  add: (x, y) => `${x} + ${y}`,
  sub: (x, y) => `${x} - ${y}`,
  mul: (x, y) => `${x} * ${y}`,
  div: (x, y) => `(${y} == 0.0 ? 0.0 : ${x} / ${y})`,
  min: (x, y) => `min(${x}, ${y})`,
  max: (x, y) => `max(${x}, ${y})`,
  pow: (x, y) => `ubPow(${x}, ${y})`,
  less: (x, y) => `(${x} < ${y} ? 1.0 : 0.0)`,
  mix: (x, y, z) => `${x} + (${y} - ${x}) * ${z}`,
  clamp: (x, y, z) => `min(max(${x}, ${y}), ${z})`,
  select: (x, y, z) => `(${x} > 0.5 ? ${y} : ${z})`,
  smoothstep: (x, y, z) => `ubSmooth(${x}, ${y}, ${z})`,
  noise3: (x, y, z) => `ubNoise(vec3(${x}, ${y}, ${z}))`,
  fitChroma: (x, y, z) => `ubFitChroma(${x}, ${y}, ${z})`,
  cell3: (x, y, z) => `ubUnit(ubHash(ivec3(floor(vec3(${x}, ${y}, ${z})))))`,
  fractal3: (x, y, z, o, l, d) => `ubFractal(vec3(${x}, ${y}, ${z}), ${o}, ${l}, ${d})`,
}

/** The readings of Worley noise, by their place in what its function returns. */
const WORLEY: Partial<Record<string, 'x' | 'y' | 'z'>> = { worley3: 'x', worley3second: 'y', worley3cell: 'z' }

/**
 * Functions behind the expressions, and the operations that need each. Gradient and Worley noise as the MaterialX
 * standard defines them. Corners and levels are gone through in loops: what is called once is compiled once.
 */
const FUNCTIONS: { for: readonly (OpName | 'picture')[]; glsl: string }[] = [
  {
    for: ['picture'],
    glsl: /* glsl */ `
// What lies beyond the edge: 0 the picture again, 1 its mirror image, 2 its outermost texels.
int ubFolded(int i, int n, int beyond) {
  if (beyond == 2) return clamp(i, 0, n - 1);
  int turn = beyond == 1 ? 2 * n : n;
  int at = ((i % turn) + turn) % turn;
  return at < n ? at : 2 * n - 1 - at;
}
vec4 ubTexel(highp sampler2D s, int level, ivec2 at, ivec2 size, bool linear, ivec2 beyond) {
  vec4 c = texelFetch(s, ivec2(ubFolded(at.x, size.x, beyond.x), ubFolded(at.y, size.y, beyond.y)), level);
  if (!linear) c.rgb = mix(c.rgb / 12.92, pow((c.rgb + 0.055) / 1.055, vec3(2.4)), step(vec3(0.04045), c.rgb));
  return c;
}
vec4 ubSmooth(highp sampler2D s, int level, vec2 uv, bool linear, ivec2 beyond) {
  ivec2 size = textureSize(s, level);
  vec2 p = uv * vec2(size) - 0.5, base = floor(p), f = p - base;
  ivec2 at = ivec2(base);
  vec4 found = vec4(0.0);
  for (int j = 0; j < 2; j++) {
    vec4 left = ubTexel(s, level, at + ivec2(0, j), size, linear, beyond);
    vec4 row = mix(left, ubTexel(s, level, at + ivec2(1, j), size, linear, beyond), f.x);
    found = j == 0 ? row : mix(found, row, f.y);
  }
  return found;
}
vec4 ubPicture(highp sampler2D s, vec4 covers, vec2 place, vec2 over, bool linear, bool nearest, ivec2 beyond) {
  ivec2 size = textureSize(s, 0);
  vec2 uv = (place - covers.xy) / covers.zw;
  if (nearest) return ubTexel(s, 0, ivec2(floor(uv * vec2(size))), size, linear, beyond);
  vec2 texels = abs(over) / covers.zw * vec2(size);
  float wide = max(texels.x, texels.y);
  int last = 0;
  for (int n = max(size.x, size.y); n > 1; n >>= 1) last++;
  float level = wide > 1.0 ? min(float(last), log2(wide)) : 0.0;
  int below = int(level);
  float share = level - float(below);
  vec4 found = vec4(0.0);
  for (int i = 0; i < (share > 0.0 ? 2 : 1); i++) {
    vec4 seen = ubSmooth(s, below + i, uv, linear, beyond);
    found = i == 0 ? seen : mix(found, seen, share);
  }
  return found;
}`,
  },
  {
    for: ['cbrt', 'pow', 'smoothstep'],
    glsl: /* glsl */ `
float ubCbrt(float x) { return sign(x) * pow(abs(x), 0.33333333333); }
float ubPow(float x, float y) { return x <= 0.0 ? (y == 0.0 ? 1.0 : 0.0) : pow(x, y); }
float ubSmooth(float a, float b, float x) {
  if (a == b) return x >= b ? 1.0 : 0.0;
  float t = clamp((x - a) / (b - a), 0.0, 1.0);
  return t * t * (3.0 - 2.0 * t);
}`,
  },
  {
    for: ['noise3', 'fractal3', 'cell3', 'worley3', 'worley3second', 'worley3cell'],
    glsl: /* glsl */ `
uint ubRotl(uint x, int k) { return (x << k) | (x >> (32 - k)); }
uint ubFinal(uint a, uint b, uint c) {
  c ^= b; c -= ubRotl(b, 14);
  a ^= c; a -= ubRotl(c, 11);
  b ^= a; b -= ubRotl(a, 25);
  c ^= b; c -= ubRotl(b, 16);
  a ^= c; a -= ubRotl(c, 4);
  b ^= a; b -= ubRotl(a, 14);
  c ^= b; c -= ubRotl(b, 24);
  return c;
}
uint ubHash(ivec3 p) {
  uint s = 0xdeadbeefu + 25u;
  uint a = s + uint(p.x), b = s + uint(p.y), c = s + uint(p.z);
  return ubFinal(a, b, c);
}`,
  },
  {
    for: ['noise3', 'fractal3'],
    glsl: /* glsl */ `
float ubGradient(ivec3 cell, vec3 d) {
  uint h = ubHash(cell) & 15u;
  float u = h < 8u ? d.x : d.y;
  float v = h < 4u ? d.y : (h == 12u || h == 14u ? d.x : d.z);
  return ((h & 1u) != 0u ? -u : u) + ((h & 2u) != 0u ? -v : v);
}
float ubNoise(vec3 p) {
  vec3 base = floor(p), f = p - base, w = f * f * f * (f * (f * 6.0 - 15.0) + 10.0);
  ivec3 c = ivec3(base);
  float found = 0.0;
  for (int k = 0; k < 2; k++) {
    float side = 0.0;
    for (int j = 0; j < 2; j++) {
      ivec3 at = ivec3(0, j, k);
      float left = ubGradient(c + at, f - vec3(at));
      at.x = 1;
      float row = mix(left, ubGradient(c + at, f - vec3(at)), w.x);
      side = j == 0 ? row : mix(side, row, w.y);
    }
    found = k == 0 ? side : mix(found, side, w.z);
  }
  return found * 0.9820;
}
float ubFractal(vec3 p, float octaves, float lacunarity, float diminish) {
  int count = clamp(int(octaves), 1, 16);
  float sum = 0.0, amplitude = 1.0;
  for (int i = 0; i < count; i++) { sum += amplitude * ubNoise(p); amplitude *= diminish; p *= lacunarity; }
  return sum;
}`,
  },
  {
    for: ['cell3', 'worley3', 'worley3second', 'worley3cell'],
    glsl: /* glsl */ `
float ubUnit(uint bits) { return float(bits) * 2.3283064365386963e-10; }`,
  },
  {
    for: ['worley3', 'worley3second', 'worley3cell'],
    glsl: /* glsl */ `
uint ubHash4(ivec3 p, int w) {
  uint s = 0xdeadbeefu + 29u;
  uint a = s + uint(p.x), b = s + uint(p.y), c = s + uint(p.z);
  a = (a - c) ^ ubRotl(c, 4); c += b;
  b = (b - a) ^ ubRotl(a, 6); a += c;
  c = (c - b) ^ ubRotl(b, 8); b += a;
  a = (a - c) ^ ubRotl(c, 16); c += b;
  b = (b - a) ^ ubRotl(a, 19); a += c;
  c = (c - b) ^ ubRotl(b, 4); b += a;
  return ubFinal(a + uint(w), b, c);
}
vec3 ubWorley(vec3 p, float jitter) {
  vec3 base = floor(p), f = p - base;
  float first = 1e6, second = 1e6, own = 0.0;
  for (int i = -1; i <= 1; i++) for (int j = -1; j <= 1; j++) for (int k = -1; k <= 1; k++) {
    ivec3 c = ivec3(base) + ivec3(i, j, k);
    vec3 d = vec3(i, j, k) - f + (vec3(ubUnit(ubHash4(c, 0)), ubUnit(ubHash4(c, 1)), ubUnit(ubHash4(c, 2))) - 0.5) * jitter + 0.5;
    float q = dot(d, d);
    if (q < first) { second = first; first = q; own = ubUnit(ubHash4(c, 3)); } else second = min(second, q);
  }
  return vec3(sqrt(first), sqrt(second), own);
}`,
  },
  {
    for: ['fitChroma'],
    glsl: /* glsl */ `
bool ubInGamut(float L, float a, float b) {
  float l = L + 0.3963377774 * a + 0.2158037573 * b;
  float m = L - 0.1055613458 * a - 0.0638541728 * b;
  float s = L - 0.0894841775 * a - 1.2914855480 * b;
  l = l * l * l; m = m * m * m; s = s * s * s;
  vec3 c = vec3(4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
    -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
    -0.0041960863 * l - 0.7034186147 * m + 1.7076147010 * s);
  return min(c.r, min(c.g, c.b)) >= -1e-4 && max(c.r, max(c.g, c.b)) <= 1.0001;
}
float ubFitChroma(float L, float a, float b) {
  if (ubInGamut(L, a, b)) return 1.0;
  float low = 0.0, high = 1.0;
  for (int i = 0; i < 12; i++) {
    float middle = (low + high) * 0.5;
    if (ubInGamut(L, a * middle, b * middle)) low = middle; else high = middle;
  }
  return low;
}`,
  },
]
/** Only what a program uses: a shader's text is compiled before anything shows. */
const functionsFor = (used: ReadonlySet<string>): string =>
  FUNCTIONS.filter(f => f.for.some(op => used.has(op)))
    .map(f => f.glsl)
    .join('\n')

const SURFACE_GLSL: Record<SurfaceInput, string> = {
  x: 'ubPosition.x',
  y: 'ubPosition.y',
  z: 'ubPosition.z',
  u: 'ubUv.x',
  v: 'ubUv.y',
  normalX: 'ubFacing.x',
  normalY: 'ubFacing.y',
  normalZ: 'ubFacing.z',
  footprint: 'ubFootprint',
  footprintUv: 'ubFootprintUv',
}

/** As the shader numbers what lies beyond the edge of a picture. */
const BEYOND: readonly Beyond[] = ['repeat', 'mirror', 'edge']

/** GLSL has no literal for every float; an exponent makes any of them one. */
const literal = (x: number): string => (/[.e]/.test(String(x)) ? String(x) : `${x}.0`)

/**
 * The vertex and surface stages as GLSL: vertex-domain work runs in the vertex shader, so that nothing per vertex has
 * to be computed or sent while a parameter is dragged. The host declares, before `functions`: `ubPart` (int) in both
 * shaders; where the counts below are above 0, `uniform vec4 ubUniforms[]`, `uniform sampler2D ubParts` (see
 * `packPartTable`), and `ubVertex0`… (vec4 varyings); in the vertex shader the attributes `ubMap0`… (vec4, see
 * `packMaps`); in the fragment shader `ubPosition` (vec3, meters), `ubUv` (vec2), `ubFacing` (vec3, the normal between
 * the vertices'), `ubGiven0`… (vec4, the values that the plan is given, in its order) and, where they are read,
 * `ubFootprint` and `ubFootprintUv` (float, see `SURFACE_INPUTS`).
 */
export interface LookShader {
  functions: string
  /** Statements of the vertex shader; they end by setting the varyings. */
  vertexBody: string
  /** Statements of the fragment shader that declare everything the roots need. */
  surfaceBody: string
  /** An expression for each root, in the fragment shader. */
  roots: string[]
  uniformCount: number
  /** vec4 per part in the part table. */
  partStride: number
  /** vec4 that pass from vertices to the surface. */
  vertexStride: number
  /**
   * The pictures to be given as `uniform sampler2D ubPicture0`… in both shaders, not filtered, bytes and numbers as
   * they are, each with the smaller ones of its pyramid as its levels (see `pyramidOf`), with `uniform vec4 ubCovers0`…
   * (see `Picture.covers`) and `uniform bool ubNumbers0`… (whether they hold numbers): `pictureUniforms` declares them.
   */
  pictures: ShaderPicture[]
  /** Vertex maps to be given as attributes, one lane each. */
  maps: VertexInput[]
}
/** A picture that a shader reads, and whether its numbers are data rather than colors. */
export interface ShaderPicture {
  name: string
  linear: boolean
  /** Whether it is seen from afar, too: else the smaller ones are not needed. */
  hasLevels: boolean
  /** Whether the last bits of its numbers count. */
  exact: boolean
}
/** A component of a vertex map, or a vertex value that was gathered. */
export type VertexInput = { name: string; component: number } | { gathered: Ref }

/** The declarations of what a shader reads of its pictures. */
export const pictureUniforms = (pictures: readonly ShaderPicture[]): string =>
  pictures
    .map(
      (_, k) => `uniform highp sampler2D ubPicture${k};\nuniform highp vec4 ubCovers${k};\nuniform bool ubNumbers${k};`,
    )
    .join('\n')

/** Width of the part table's texture: part `i`'s vec4 number `k` is texel `i * stride + k`, row by row. */
export const PART_TABLE_WIDTH = 1024

const lane = (i: number): string => 'xyzw'[i % 4]!

export function lookShader(plan: Plan): LookShader {
  const { program, stages } = plan
  const slotOf = [UNIFORM, PART, VERTEX].map(d => new Map(stages[d].out.map((ref, i) => [ref, i])))
  const partStride = Math.ceil(stages[PART].out.length / 4)
  const maps: LookShader['maps'] = []
  const pictures: ShaderPicture[] = []

  const emit = (stage: Stage) => {
    const fetched = new Set<number>()
    const name = (ref: Ref): string => {
      const domain = program.domains[ref]!
      const known = plan.given.indexOf(ref)
      if (known >= 0) return `ubGiven${known >> 2}.${lane(known)}`
      if (domain === stage.domain) return `ub${ref}`
      const slot = slotOf[domain]!.get(ref)!
      if (domain === UNIFORM) return `ubUniforms[${slot >> 2}].${lane(slot)}`
      if (domain === VERTEX) return `ubVertex${slot >> 2}.${lane(slot)}`
      fetched.add(slot >> 2)
      return `ubRow${slot >> 2}.${lane(slot)}`
    }
    const lines: string[] = []
    // The readings of one Worley noise, which looks at 27 cells, or of one place of a picture share a call.
    const calls = new Map<string, string>()
    const shared = (type: 'vec3' | 'vec4', call: string, ref: Ref, lane: string): string => {
      const known = calls.get(call) ?? `ubShared${ref}`
      if (!calls.has(call)) lines.push(`${type} ${known} = ${call};`)
      calls.set(call, known)
      return `${known}.${lane}`
    }
    const expression = (ref: Ref): string => {
      const i = program.code[ref]!
      if (i.op === 'surface') return SURFACE_GLSL[i.input]
      if (i.op === 'picture') {
        const { linear, nearest, across, down, exact } = i.reading
        const known = pictures.findIndex(p => p.name === i.name && p.linear === linear)
        const k = known >= 0 ? known : pictures.push({ name: i.name, linear, hasLevels: false, exact: false }) - 1
        pictures[k]!.hasLevels ||= i.args.length > 2
        pictures[k]!.exact ||= exact === true
        const [u, v, wide = '0.0', tall = '0.0'] = i.args.map(name)
        const place = `vec2(${u}, ${v}), vec2(${wide}, ${tall})`
        const beyond = `ivec2(${BEYOND.indexOf(across)}, ${BEYOND.indexOf(down)})`
        const numbers = `${linear} || ubNumbers${k}`
        const call = `ubPicture(ubPicture${k}, ubCovers${k}, ${place}, ${numbers}, ${nearest}, ${beyond})`
        return shared('vec4', call, ref, 'rgba'[i.channel]!)
      }
      if (i.op === 'map' || (isGathered(i) && stage.domain === VERTEX)) {
        const k = maps.push(i.op === 'map' ? { name: i.name, component: i.component } : { gathered: ref }) - 1
        return `ubMap${k >> 2}.${lane(k)}`
      }
      const reading = WORLEY[i.op]
      if (reading && 'args' in i) {
        const [x, y, z, jitter] = i.args.map(name)
        return shared('vec3', `ubWorley(vec3(${x}, ${y}, ${z}), ${jitter})`, ref, reading)
      }
      if (i.op === 'row3') return i.args.map((a, k) => `${name(a)} * ${literal(i.constants![k]!)}`).join(' + ')
      if ('args' in i && i.op in EXPRESSIONS) return EXPRESSIONS[i.op as keyof typeof EXPRESSIONS](...i.args.map(name))
      throw new Error(`${i.op} cannot run in a shader`)
    }
    for (const ref of stage.order) {
      const found = expression(ref)
      lines.push(`float ub${ref} = ${found};`)
    }
    return { name, lines, rows: () => [...fetched].map(k => `vec4 ubRow${k} = ${partTexel(partStride, k)};`) }
  }

  const vertex = emit(stages[VERTEX])
  const surface = emit(stages[SURFACE])
  const roots = plan.roots.map(surface.name)
  const outputs = stages[VERTEX].out.map((ref, i) => `ubVertex${i >> 2}.${lane(i)} = ub${ref};`)
  return {
    pictures,
    functions: functionsFor(
      new Set([...stages[VERTEX].order, ...stages[SURFACE].order].map(ref => program.code[ref]!.op)),
    ),
    roots,
    maps,
    partStride,
    vertexBody: [...vertex.rows(), ...vertex.lines, ...outputs].join('\n'),
    surfaceBody: [...surface.rows(), ...surface.lines].join('\n'),
    uniformCount: Math.ceil(stages[UNIFORM].out.length / 4),
    vertexStride: Math.ceil(stages[VERTEX].out.length / 4),
  }
}

const partTexel = (stride: number, k: number): string =>
  `texelFetch(ubParts, ivec2((ubPart * ${stride} + ${k}) % ${PART_TABLE_WIDTH}, (ubPart * ${stride} + ${k}) / ${PART_TABLE_WIDTH}), 0)`

/** Lays columns out as the part table's texture: RGBA, `PART_TABLE_WIDTH` wide, `height` rows. */
export function packPartTable(columns: readonly Float32Array[], parts: number): { data: Float32Array; height: number } {
  const stride = Math.ceil(columns.length / 4)
  const height = Math.max(1, Math.ceil((parts * stride) / PART_TABLE_WIDTH))
  const data = new Float32Array(height * PART_TABLE_WIDTH * 4)
  columns.forEach((column, k) => {
    for (let i = 0; i < parts; i++) data[i * stride * 4 + k] = column[i]!
  })
  return { data, height }
}

/** Lays vertex maps out as vec4 attributes: entry `k` of the shader's maps is lane `k % 4` of attribute `k / 4`. */
export function packMaps(
  maps: LookShader['maps'],
  mesh: Pick<Mesh, 'maps' | 'positions'>,
  gathered: (ref: Ref) => Float32Array,
): Float32Array[] {
  const vertices = mesh.positions.length / 3
  const packed = Array.from({ length: Math.ceil(maps.length / 4) }, () => new Float32Array(vertices * 4))
  maps.forEach((input, k) => {
    const data = packed[k >> 2]!
    if ('gathered' in input) {
      const values = gathered(input.gathered)
      for (let v = 0; v < vertices; v++) data[v * 4 + (k % 4)] = values[v]!
      return
    }
    const { name, component } = input
    const map = mesh.maps.find(m => m.name === name)
    if (map) for (let v = 0; v < vertices; v++) data[v * 4 + (k % 4)] = map.values[v * map.components + component]!
  })
  return packed
}
