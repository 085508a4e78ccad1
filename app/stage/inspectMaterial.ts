import { DataTexture, DoubleSide, GLSL3, LinearFilter, RGBAFormat, ShaderMaterial, type Texture } from 'three'
import { falseColor } from '#core/color/falseColor'
import { HIDE_VERTEX, STATE_DECLARATION } from './partState'

/** What a fragment shows: a flat color per part or per patch, or a number in gray or false colors. */
export const MODES = { part: 0, patch: 1, gray: 2, falseColor: 3, identity: 4, hatch: 5, edges: 6 } as const

const NO_PICTURE = new DataTexture(new Uint8Array(4), 1, 1, RGBAFormat)

let ramp: DataTexture | undefined
/** The false colors as a strip, encoded for display. */
export function rampTexture(): DataTexture {
  if (ramp) return ramp
  const bytes = Uint8Array.from({ length: 1024 }, (_, i) =>
    i % 4 === 3 ? 255 : Math.round(falseColor((i >> 2) / 255)[i % 4]! * 255),
  )
  ramp = new DataTexture(bytes, 256, 1, RGBAFormat)
  ramp.minFilter = ramp.magFilter = LinearFilter
  ramp.needsUpdate = true
  return ramp
}

const VERTEX = `
in float ubPartIn;
in vec2 ubUvIn;
in float ubValueIn;
in vec3 ubPatchIn;
out float ubValue;
out vec2 ubUv;
out vec3 ubNormal;
flat out int ubPartOut;
flat out vec3 ubPatch;
flat out float ubSelected;
uniform bool ubFlat;
${STATE_DECLARATION}
void main() {
  int ubPart = int(ubPartIn + 0.5);
  ubPartOut = ubPart;
  ubValue = ubValueIn;
  ubUv = ubUvIn;
  ubPatch = ubPatchIn;
  ubNormal = normalize(normalMatrix * normal);
  vec3 at = ubFlat ? vec3(ubUvIn.x, 1.0 - ubUvIn.y, 0.0) : position;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(at, 1.0);
  ${HIDE_VERTEX}
  ubSelected = ubMark.g;
}`

const FRAGMENT = `
in float ubValue;
in vec2 ubUv;
in vec3 ubNormal;
flat in int ubPartOut;
flat in vec3 ubPatch;
flat in float ubSelected;
uniform bool ubFlat;
uniform int ubMode;
uniform vec2 ubSpan;
uniform vec3 ubAccent;
uniform highp sampler2D ubSwatches;
uniform sampler2D ubRamp;
uniform highp sampler2D ubPicture;
uniform vec4 ubCovers;
uniform int ubLane;
out vec4 color;
void main() {
  float stripe = step(0.5, fract((gl_FragCoord.x + gl_FragCoord.y) / 9.0));
  if (ubMode == 4) {
    int id = ubPartOut + 1;
    color = vec4(float(id & 255), float((id >> 8) & 255), float((id >> 16) & 255), 255.0) / 255.0;
    return;
  }
  if (ubMode == 5) {
    if (stripe < 0.5) discard;
    color = vec4(0.1, 0.1, 0.1, 1.0);
    return;
  }
  if (ubMode == 6) {
    color = vec4(0.0, 0.0, 0.0, 1.0);
    return;
  }
  vec3 shown;
  if (ubMode >= 2) {
    float value = ubValue;
    if (ubLane >= 0) {
      ivec2 size = textureSize(ubPicture, 0);
      vec2 at = floor((ubUv - ubCovers.xy) / ubCovers.zw * vec2(size));
      value = texelFetch(ubPicture, clamp(ivec2(at), ivec2(0), size - 1), 0)[ubLane];
    }
    float t = clamp((value - ubSpan.x) / max(ubSpan.y - ubSpan.x, 1e-20), 0.0, 1.0);
    shown = ubMode == 2 ? vec3(t) : texture(ubRamp, vec2((t * 255.0 + 0.5) / 256.0, 0.5)).rgb;
    // Numbers must stay readable: only thin lines.
    if (ubSelected > 0.5 && fract((gl_FragCoord.x + gl_FragCoord.y) / 9.0) < 0.16) shown = mix(shown, ubAccent, 0.85);
  } else {
    shown = ubMode == 1 ? ubPatch : texelFetch(ubSwatches, ivec2(ubPartOut % 1024, ubPartOut / 1024), 0).rgb;
    if (ubSelected > 0.5) shown = mix(shown, ubAccent, stripe > 0.5 ? 0.95 : 0.6);
    if (!ubFlat) {
      vec3 n = normalize(gl_FrontFacing ? ubNormal : -ubNormal);
      shown *= 0.5 + 0.5 * clamp(dot(n, normalize(vec3(-0.3, 0.5, 0.85))), 0.0, 1.0);
    }
  }
  color = vec4(shown, 1.0);
}`

/**
 * Shows what a mesh is made of: parts and their levels under a plain light, vertex maps without any. Selected parts are
 * tinted and hatched. `ubFlat` lays the surface out by its UVs, tile beside tile, the first UDIM row at the bottom.
 */
export class InspectMaterial extends ShaderMaterial {
  constructor(mode: number = MODES.part) {
    super({
      glslVersion: GLSL3,
      side: DoubleSide,
      uniforms: {
        ubState: { value: null },
        ubSwatches: { value: null },
        ubRamp: { value: rampTexture() },
        ubMode: { value: mode },
        // A number of a surface map in place of the vertices' own; −1 for those.
        ubPicture: { value: NO_PICTURE },
        ubCovers: { value: [0, 0, 1, 1] },
        ubLane: { value: -1 },
        ubFlat: { value: false },
        ubSpan: { value: [0, 1] },
        ubAccent: { value: [0, 0.5, 0.4] },
      },
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
    })
    this.toneMapped = false
  }

  set state(texture: Texture) {
    this.uniforms.ubState!.value = texture
  }
}
