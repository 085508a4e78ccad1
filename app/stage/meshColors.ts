import { DataTexture, RGBAFormat, Vector3, Vector4, type IUniform, type Texture } from 'three'
import { swatchOf } from '#core/color/falseColor'
import type { MeshTables } from '#core/evaluate/tables'
import { keyOf } from '#core/mesh/hash'
import type { Inspected } from './inspected'
import { partTexture, STATE_DECLARATION } from './partState'
import { pictureTexture } from './pictureTexture'
import { rampTexture } from './ramp'

/** What is made of a point: a color of its part or its patch, or a number in gray or false colors. */
const MODES = { part: 0, patch: 1, gray: 2, falseColor: 3 } as const
const NO_PICTURE = new DataTexture(new Uint8Array(4), 1, 1, RGBAFormat)

/**
 * The color of a point, encoded for display. Selected parts are tinted and hatched. `number` is a value or the number
 * of a patch, `at` a pixel of the canvas, and `light` 0 to 1.
 */
export const MESH_COLORS = `
uniform int ubMode;
uniform vec2 ubSpan;
uniform vec3 ubAccent;
uniform highp sampler2D ubSwatches;
uniform sampler2D ubRamp;
uniform highp sampler2D ubPicture;
uniform vec4 ubCovers;
uniform int ubLane;
${STATE_DECLARATION}
vec3 ubShownAs(int part, float number, vec2 uv, vec2 at, float light) {
  bool selected = texelFetch(ubState, ubPartCell(part), 0).g > 0.5;
  float stripes = fract((at.x + at.y) / 9.0);
  if (ubMode < ${MODES.gray}) {
    int swatch = ubMode == ${MODES.patch} ? int(number + 0.5) : part;
    vec3 shown = texelFetch(ubSwatches, ubPartCell(swatch), 0).rgb;
    if (selected) shown = mix(shown, ubAccent, stripes >= 0.5 ? 0.95 : 0.6);
    return shown * (0.5 + 0.5 * light);
  }
  if (ubLane >= 0) {
    ivec2 size = textureSize(ubPicture, 0);
    vec2 place = floor((uv - ubCovers.xy) / ubCovers.zw * vec2(size));
    number = texelFetch(ubPicture, clamp(ivec2(place), ivec2(0), size - 1), 0)[ubLane];
  }
  float t = clamp((number - ubSpan.x) / max(ubSpan.y - ubSpan.x, 1e-20), 0.0, 1.0);
  vec3 shown = ubMode == ${MODES.gray} ? vec3(t) : texture(ubRamp, vec2((t * 255.0 + 0.5) / 256.0, 0.5)).rgb;
  // Numbers must stay readable: only thin lines.
  return selected && stripes < 0.16 ? mix(shown, ubAccent, 0.85) : shown;
}`

const FOUND = [0.72, 0.72, 0.72]
/** The color of what is astray. */
export const ASTRAY = [0.82, 0.1, 0.08] as const
/** A little is seen, too. */
const LEAST = 0.25
/** Gray at 0, and red from a little on. */
function redAt(share: number): number[] {
  const t = share > 0 ? LEAST + (1 - LEAST) * Math.min(1, share) : 0
  return FOUND.map((x, k) => x + (ASTRAY[k]! - x) * t)
}

/** In what colors the mesh itself is shown. */
export class MeshColors {
  readonly uniforms = {
    ubMode: { value: MODES.part as number },
    ubSpan: { value: [0, 1] as readonly number[] },
    ubAccent: { value: new Vector3(0, 0.5, 0.4) },
    ubSwatches: { value: null as Texture | null },
    ubRamp: { value: rampTexture() as Texture },
    // A number of a surface map in place of the vertices' own; −1 for those.
    ubPicture: { value: NO_PICTURE as Texture },
    ubCovers: { value: new Vector4(0, 0, 1, 1) },
    ubLane: { value: -1 },
    ubState: { value: null as Texture | null },
  } satisfies Record<string, IUniform>

  /** The surface map that is on the graphics card. */
  private picture?: object

  show(inspected: Inspected, { parts }: MeshTables): void {
    const { uniforms } = this
    uniforms.ubLane.value = inspected.kind === 'surface' ? inspected.lane : -1
    if (inspected.kind === 'surface' || inspected.kind === 'values') {
      uniforms.ubSpan.value = inspected.span
      uniforms.ubMode.value = inspected.falseColors ? MODES.falseColor : MODES.gray
    }
    if (inspected.kind === 'surface') this.take(inspected.picture)
    const list = parts.parts
    if (inspected.kind === 'astray') this.swatches(list.length, i => redAt(inspected.shares[i] ?? 0))
    if (inspected.kind === 'partners')
      this.swatches(list.length, i => (inspected.alone[i] ? FOUND : swatchOf(list[i]!.key)))
    if (inspected.kind !== 'level') return
    if (inspected.level === 'patch') {
      this.swatches(parts.patches, i => swatchOf(keyOf(`patch ${i}`)))
      uniforms.ubMode.value = MODES.patch
    }
    if (inspected.level === 'part') this.swatches(list.length, i => swatchOf(list[i]!.key))
    if (inspected.level === 'group') this.swatches(list.length, i => swatchOf(parts.groups[list[i]!.group]!.key))
    if (inspected.level === 'object') this.swatches(list.length, i => swatchOf(parts.objectKeys[list[i]!.object]!))
  }

  private take(picture: Parameters<typeof pictureTexture>[0] & object): void {
    if (picture === this.picture) return
    this.picture = picture
    const { ubPicture, ubCovers } = this.uniforms
    this.dropPicture()
    ubPicture.value = pictureTexture(picture)
    ubCovers.value.set(...(picture.covers ?? ([0, 0, 1, 1] as const)))
  }

  /** Shows each part, or patch, in a color of its own, encoded for display. */
  private swatches(count: number, colorOf: (i: number) => readonly number[]): void {
    const { ubSwatches, ubMode } = this.uniforms
    ubSwatches.value?.dispose()
    ubSwatches.value = partTexture(count, (i, bytes, at) =>
      colorOf(i).forEach((x, k) => {
        bytes[at + k] = Math.round(x * 255)
      }),
    )
    ubMode.value = MODES.part
  }

  private dropPicture(): void {
    const { ubPicture } = this.uniforms
    if (ubPicture.value !== NO_PICTURE) ubPicture.value.dispose()
  }

  dispose(): void {
    this.dropPicture()
    this.uniforms.ubSwatches.value?.dispose()
  }
}
