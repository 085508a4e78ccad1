import {
  Color,
  CustomBlending,
  HalfFloatType,
  MathUtils,
  Matrix4,
  MeshStandardMaterial,
  OneMinusSrcAlphaFactor,
  ShaderChunk,
  ShaderMaterial,
  SrcAlphaFactor,
  Vector2,
  Vector3,
  WebGLRenderTarget,
  ZeroFactor,
  OneFactor,
  type IUniform,
  type Texture,
  type WebGLRenderer,
} from 'three'
import type { ChannelPicture } from '#core/evaluate/visible'
import { CHANNEL_NAMES, type Channel } from '#core/graph/types'
import type { Probed } from '#core/program/probe'
import { rampTexture } from './ramp'
import type { LookSlot } from './slots'
import type { KeyLight } from '#core/light/keyLight'
import type { Box } from '#core/mesh/mesh'
import { exchanged, FULL_VERTEX, type FullPass } from './passes'
import { Area, contactAround, groundArea, toClipOf, type Place } from './groundArea'
import { keepTo, WHOLE, type Region } from './region'
import type { Camera, Channels, Sample } from './sample'
import type { ShadowPass } from './shadowPass'

/** What the stage shows: the finished surface, or one channel as it is, without light. */
export const VIEWS = ['finished', ...CHANNEL_NAMES] as const
export type View = (typeof VIEWS)[number]

/**
 * Each channel as the stage shows it alone. Height is gray at 0; 1 mm up is three quarters, so any range can be told.
 */
const SHOWN: Record<Channel, string> = {
  baseColor: 'ubBaseColor',
  metalness: 'vec3(ubMetalness)',
  roughness: 'vec3(ubRoughness)',
  height: 'vec3(0.5 + 0.5 * ubHeight / (1.0 + abs(ubHeight)))',
  emission: 'ubEmission',
  opacity: 'vec3(ubOpacity)',
  translucency: 'ubTranslucency.x * ubTranslucency.yzw',
}
/** Views of a port instead of the result: see `probe`. */
const PROBES = { value: VIEWS.length, color: VIEWS.length + 1 } as const
/** How the number at a port is shown: from black to white between two values, or in false colors. */
export interface ProbeLook {
  span: [number, number]
  falseColors: boolean
}

/** Views that are light and so are encoded for display. */
const COLORED: readonly View[] = ['baseColor', 'emission', 'translucency']

/** Everything that decides how channels turn into light. */
export interface Lighting {
  environment: Texture
  key: KeyLight
  /** Of the light about the vertical, in degrees. */
  turn: number
  /** A factor. */
  brightness: number
  view: View
  shows?: Probed
  probed: ProbeLook
  /** Encoded for display. */
  background: Color
  shadows: boolean
  contact: boolean
  ground: boolean
  /** Whether highlights are made no smaller than a pixel. */
  widens: boolean
  /** Whether a look on the stage sets heights. */
  tilts: boolean
  /** Whether one says by a picture which way the surface faces: then it may face away where it is seen. */
  bends: boolean
}

/** Uniforms and functions of every material here. */
const SHARED = `
uniform bool ubBends;
uniform bool ubWidens;
uniform highp sampler2D ubReliefPicture;
uniform highp sampler2D ubContactPicture;
uniform highp sampler2D ubShadowMap;
uniform mat4 ubShadowMatrix;
uniform mat4 ubInverseProjection;
uniform mat4 ubCameraMatrix;
uniform vec2 ubSize;
uniform vec3 ubBackground;
uniform vec3 ubKeyFrom;
uniform vec3 ubKeyIrradiance;
uniform float ubKeyRadius;
uniform float ubShadowExtent;
uniform float ubShadowSize;
uniform int ubStride;
uniform float ubSample;
uniform float ubWeight;
uniform bool ubShadows;
uniform bool ubContact;
uniform bool ubStraight;
uniform bool ubGround;
vec3 ubPlace(vec2 at, float depth) {
  vec2 flatAt = at / ubSize * 2.0 - 1.0;
  if (ubStraight) return vec3((ubInverseProjection * vec4(flatAt, 0.0, 1.0)).xy, -depth);
  vec4 along = ubInverseProjection * vec4(flatAt, 1.0, 1.0);
  vec3 ray = along.xyz / along.w;
  return ray * (depth / -ray.z);
}
/** The pixel of the sample that is lit here: of a picture with fewer pixels, one of several. */
ivec2 ubPixel() { return min(ivec2(gl_FragCoord.xy) * ubStride, ivec2(ubSize) - 1); }
float ubNoise() {
  return fract(fract(52.9829189 * fract(dot(floor(gl_FragCoord.xy), vec2(0.06711056, 0.00583715)))) + ubSample * 0.6180339887498949);
}
float ubWayAt(vec2 at) { return texelFetch(ubShadowMap, ivec2(clamp(at, 0.0, 0.9999) * ubShadowSize), 0).r; }
/** Eight places of a disk, on a spiral. */
const vec2 ubDisk[8] = vec2[8](${Array.from({ length: 8 }, (_, i) => `vec2(${[Math.cos, Math.sin].map(f => (f(i * 2.399963) * Math.sqrt((i + 0.5) / 8)).toFixed(6)).join(', ')})`).join(', ')});
/**
 * The share of the key light that reaches a place: blockers are looked for first, and the shadow is as soft as they are
 * far away (Fernando, "Percentage-Closer Soft Shadows", 2005).
 */
float ubReached(vec3 world, vec3 facing) {
  float texel = ubShadowExtent / ubShadowSize;
  vec3 at = (ubShadowMatrix * vec4(world + facing * texel * 1.5, 1.0)).xyz;
  if (at.x <= 0.0 || at.y <= 0.0 || at.x >= 1.0 || at.y >= 1.0) return 1.0;
  float slope = tan(ubKeyRadius);
  float slack = texel * 1.5;
  float turn = ubNoise() * 6.283185307;
  mat2 turned = mat2(cos(turn), sin(turn), -sin(turn), cos(turn));
  float search = clamp(slope * 0.25, 2.0 / ubShadowSize, 0.06);
  float blockers = 0.0;
  float way = 0.0;
  for (int i = 0; i < 8; i++) {
    float d = ubWayAt(at.xy + turned * ubDisk[i] * search);
    float blocks = d > 0.0 && d < at.z - slack ? 1.0 : 0.0;
    blockers += blocks;
    way += d * blocks;
  }
  if (blockers == 0.0) return 1.0;
  float soft = clamp(slope * (at.z - way / blockers) / ubShadowExtent, 0.75 / ubShadowSize, 0.08);
  float lit = 0.0;
  for (int i = 0; i < 8; i++) {
    float d = ubWayAt(at.xy + turned * ubDisk[i] * soft);
    lit += d > 0.0 && d < at.z - slack ? 0.0 : 0.125;
  }
  return lit;
}
`
/** What the materials need that show the surface. */
const SURFACE = `
uniform highp sampler2D ubColorPicture;
uniform highp sampler2D ubFacingPicture;
uniform highp sampler2D ubGlowPicture;
uniform highp sampler2D ubThroughPicture;
`
const PARS = `${SHARED}${SURFACE}
uniform float ubThickness;
vec3 vViewPosition;
/** Khronos PBR Neutral, of the specification of that name. */
vec3 ubTone(vec3 color) {
  float x = min(color.r, min(color.g, color.b));
  color -= x < 0.08 ? x - 6.25 * x * x : 0.04;
  float peak = max(color.r, max(color.g, color.b));
  if (peak < 0.76) return color;
  float lower = 1.0 - 0.0576 / (peak + 0.24 - 0.76);
  color *= lower / peak;
  return mix(color, vec3(lower), 1.0 - 1.0 / (0.15 * (peak - lower) + 1.0));
}
/** How far light from the key has to go through the surface to get to a place, in meters. */
float ubDeep(vec3 world) {
  vec3 at = (ubShadowMatrix * vec4(world, 1.0)).xyz;
  float d = ubWayAt(at.xy);
  return d > 0.0 ? max(0.0, at.z - d) : 0.0;
}
vec3 ubKeyOn(vec3 facing) { return ubKeyIrradiance * max(0.0, dot(facing, ubKeyFrom)); }
`

/** Where there is no surface: where the ground is drawn after it, that is left to it. */
const GROUND_FOLLOWS = `if (ubRelief.a <= 0.0 && ubGround) discard;
if (ubRelief.a <= 0.0)`
/** Or there is none: of several pictures laid over one another, each has its part in every pixel. */
const NO_GROUND = 'if (ubRelief.a <= 0.0)'
/** What is read at a pixel; where there is no surface, it is done here. */
const fetched = (empty: string): string => `
ivec2 ubAt = ubPixel();
vec4 ubRelief = texelFetch(ubReliefPicture, ubAt, 0);
${empty} {
  gl_FragColor = vec4(ubBackground, ubWeight);
  return;
}
vec4 ubFacing = texelFetch(ubFacingPicture, ubAt, 0);
vec4 ubPlain = texelFetch(ubColorPicture, ubAt, 0);
vec3 ubBaseColor = ubPlain.rgb;
float ubMetalness = ubPlain.a;
float ubRoughness = ubFacing.a;
float ubHeight = ubRelief.r;
float ubOpacity = ubRelief.b;
#ifdef UB_GLOWS
vec4 ubGlow = texelFetch(ubGlowPicture, ubAt, 0);
vec4 ubThrough = texelFetch(ubThroughPicture, ubAt, 0);
#else
vec4 ubGlow = vec4(0.0);
vec4 ubThrough = vec4(0.0);
#endif
vec3 ubEmission = ubGlow.rgb;
float ubClosed = ubThrough.a;
vec4 ubTranslucency = vec4(ubGlow.a, ubThrough.rgb);`
const FINISHED = `${fetched(GROUND_FOLLOWS)}
vViewPosition = -ubPlace(vec2(ubAt) + 0.5, ubRelief.g);
float ubOpen = (ubContact ? texelFetch(ubContactPicture, ubAt, 0).r : 1.0) * (1.0 - ubClosed);
vec3 ubWorld = (ubCameraMatrix * vec4(-vViewPosition, 1.0)).xyz;
diffuseColor = vec4(ubBaseColor, 1.0);`

/**
 * The normal between the vertices, tilted by the height's slope along the surface, found from neighboring pixels:
 * Mikkelsen, "Bump Mapping Unparametrized Surfaces on the GPU" (2010). Height is in millimeters, places in meters. Of
 * two neighbors the one is taken that goes on from here, so that an edge of the surface is no slope. A picture that
 * says which way the surface faces may turn it farther away than it can be seen, which is taken back.
 */
const NORMAL = `
float faceDirection = 1.0;
vec3 ubBetween = normalize((viewMatrix * vec4(ubFacing.xyz, 0.0)).xyz);
vec3 normal = ubBetween;
vec3 ubToward = isOrthographic ? vec3(0.0, 0.0, 1.0) : normalize(vViewPosition);
float ubFront = dot(normal, ubToward);
if (ubBends && ubFront < 0.05) normal = normalize(normal + (0.05 - ubFront) * ubToward);
vec3 nonPerturbedNormal = normal;
#ifdef UB_TILTS
{
  vec3 ubWays[2];
  float ubRises[2];
  for (int k = 0; k < 2; k++) {
    ivec2 ubStep = k == 0 ? ivec2(1, 0) : ivec2(0, 1);
    vec4 ubNext = texelFetch(ubReliefPicture, min(ubAt + ubStep, ivec2(ubSize) - 1), 0);
    vec4 ubLast = texelFetch(ubReliefPicture, max(ubAt - ubStep, ivec2(0)), 0);
    bool ubForth = ubNext.a > 0.0 && (ubLast.a <= 0.0 || abs(ubNext.g - ubRelief.g) <= abs(ubLast.g - ubRelief.g));
    vec4 ubOther = ubForth ? ubNext : ubLast;
    float ubSign = ubForth ? 1.0 : -1.0;
    ubWays[k] = ubSign * (ubPlace(vec2(ubAt) + 0.5 + ubSign * vec2(ubStep), ubOther.g) + vViewPosition);
    ubRises[k] = ubOther.a > 0.0 ? ubSign * (ubOther.r - ubHeight) : 0.0;
  }
  vec3 ubR1 = cross(ubWays[1], normal), ubR2 = cross(normal, ubWays[0]);
  float ubDet = dot(ubWays[0], ubR1);
  vec3 ubSlope = sign(ubDet) * (ubRises[0] * ubR1 + ubRises[1] * ubR2) * 0.001;
  normal = normalize(abs(ubDet) * normal - ubSlope);
}
#endif
vec3 ubOutward = (ubCameraMatrix * vec4(nonPerturbedNormal, 0.0)).xyz;
vec3 ubTurned = (ubCameraMatrix * vec4(normal, 0.0)).xyz;`

/**
 * How much the surface turns to the other pixel of its pair, within its part, so that a highlight is no smaller than a
 * pixel.
 */
const TURNS = `
vec3 dxy = vec3(0.0);
for (int k = 0; ubWidens && k < 2; k++) {
  ivec2 ubHere = ivec2(gl_FragCoord.xy);
  ivec2 ubOther = min((k == 0 ? ivec2(ubHere.x ^ 1, ubHere.y) : ivec2(ubHere.x, ubHere.y ^ 1)) * ubStride, ivec2(ubSize) - 1);
  if (texelFetch(ubReliefPicture, ubOther, 0).a != ubRelief.a) continue;
  dxy = max(dxy, abs(normalize((viewMatrix * vec4(texelFetch(ubFacingPicture, ubOther, 0).xyz, 0.0)).xyz) - ubBetween));
}`

/** Of the light around, what comes from the key is taken away where it does not reach. */
const SHADOW = `
float ubHeld = ubShadows ? 1.0 - ubReached(ubWorld, ubOutward) : 0.0;
iblIrradiance -= ubHeld * min(ubKeyOn(ubTurned), iblIrradiance * 0.95);
vec3 ubMirrored = (ubCameraMatrix * vec4(reflect(-geometryViewDir, geometryNormal), 0.0)).xyz;
float ubApart = acos(clamp(dot(ubMirrored, ubKeyFrom), -1.0, 1.0));
float ubLobe = ubKeyRadius + material.roughness * material.roughness * 0.9;
radiance *= 1.0 - ubHeld * exp(-ubApart * ubApart / (2.0 * ubLobe * ubLobe));`
/** Diffuse light from behind, as KHR_materials_diffuse_transmission mixes it in, less the deeper it has to go. */
const THROUGH = `
#ifdef UB_GLOWS
{
  float ubShare = ubTranslucency.x * (1.0 - ubMetalness);
  float ubLeft = ubShadows ? exp(-ubDeep(ubWorld) / ubThickness) : 1.0;
  reflectedLight.indirectDiffuse = mix(reflectedLight.indirectDiffuse, getIBLIrradiance(-normal) * RECIPROCAL_PI * ubTranslucency.yzw * ubLeft, ubShare);
}
#endif`
const CONTACT = `
reflectedLight.indirectDiffuse *= ubOpen;
reflectedLight.indirectSpecular *= clamp(pow(saturate(dot(geometryNormal, geometryViewDir)) + ubOpen, exp2(-16.0 * material.roughness - 1.0)) - 1.0 + ubOpen, 0.0, 1.0);`
const DEVELOP = `
gl_FragColor = vec4(clamp(sRGBTransferOETF(vec4(ubTone(gl_FragColor.rgb), 1.0)).rgb, 0.0, 1.0), ubWeight);`

/** A channel, or what runs through a port, as it is. */
const CHANNELS_FRAGMENT = `
${SHARED}${SURFACE}
uniform int ubView;
uniform vec2 ubSpan;
uniform bool ubFalse;
uniform sampler2D ubRamp;
void main() {
  ${fetched(NO_GROUND)}
  if (ubView == ${PROBES.value}) {
    float ubShare = clamp((ubHeight - ubSpan.x) / max(ubSpan.y - ubSpan.x, 1e-20), 0.0, 1.0);
    gl_FragColor.rgb = ubFalse ? texture2D(ubRamp, vec2((ubShare * 255.0 + 0.5) / 256.0, 0.5)).rgb : vec3(ubShare);
  }
  else if (ubView == ${PROBES.color}) gl_FragColor.rgb = ubEmission;
  else gl_FragColor.rgb = ${CHANNEL_NAMES.slice(1).reduceRight((rest, name, i) => `ubView == ${i + 2} ? ${SHOWN[name]} : ${rest}`, SHOWN.baseColor)};
  if (ubView == ${PROBES.color}${VIEWS.flatMap((v, i) => (COLORED.includes(v) ? ` || ubView == ${i}` : [])).join('')}) gl_FragColor = sRGBTransferOETF(gl_FragColor);
  gl_FragColor = vec4(clamp(gl_FragColor.rgb, 0.0, 1.0), ubWeight);
}`

/** The ground is the background, less what does not fall on it. */
const GROUND_FRAGMENT = `
${SHARED}
uniform vec3 ubOnGround;
void main() {
  ivec2 ubAt = ubPixel();
  vec4 ubRelief = texelFetch(ubReliefPicture, ubAt, 0);
  if (ubRelief.a > 0.0) discard;
  gl_FragColor = vec4(ubBackground, ubWeight);
  if (ubRelief.a == 0.0) return;
  vec3 ubWorld = (ubCameraMatrix * vec4(ubPlace(vec2(ubAt) + 0.5, ubRelief.g), 1.0)).xyz;
  vec3 ubShare = vec3(ubContact ? texelFetch(ubContactPicture, ubAt, 0).r : 1.0);
  vec3 ubKey = min(ubKeyIrradiance * max(0.0, ubKeyFrom.y) / max(ubOnGround, vec3(1e-6)), vec3(0.95));
  if (ubShadows) ubShare -= (1.0 - ubReached(ubWorld, vec3(0.0, 1.0, 0.0))) * ubKey;
  gl_FragColor.rgb = sRGBTransferOETF(vec4(sRGBTransferEOTF(vec4(ubBackground, 1.0)).rgb * clamp(ubShare, 0.0, 1.0), 1.0)).rgb;
}`

/** Pictures are laid over one another by their weight: of n, each counts the nth part. */
export const WEIGHED = {
  transparent: true,
  depthTest: false,
  depthWrite: false,
  blending: CustomBlending,
  blendSrc: SrcAlphaFactor,
  blendDst: OneMinusSrcAlphaFactor,
  blendSrcAlpha: OneFactor,
  blendDstAlpha: ZeroFactor,
  toneMapped: false,
} as const

/** three.js's physically based material over a whole picture, with channels in place of the surface. */
class LightMaterial extends MeshStandardMaterial {
  constructor(shared: Record<string, IUniform>, glows: boolean, tilts: boolean) {
    super({ color: 0xffffff, roughness: 1, metalness: 1, ...WEIGHED })
    this.defines = { STANDARD: '', ...(glows && { UB_GLOWS: '' }), ...(tilts && { UB_TILTS: '' }) }
    this.onBeforeCompile = shader => {
      Object.assign(shader.uniforms, shared)
      shader.vertexShader = shader.vertexShader.replace(
        '#include <project_vertex>',
        'vec4 mvPosition = vec4(0.0);\ngl_Position = vec4(position.xy, 0.0, 1.0);',
      )
      shader.fragmentShader = shader.fragmentShader
        .replace('varying vec3 vViewPosition;', '')
        .replace('#include <lights_physical_pars_fragment>', `#include <lights_physical_pars_fragment>\n${PARS}`)
        .replace('#include <color_fragment>', FINISHED)
        .replace('#include <roughnessmap_fragment>', 'float roughnessFactor = ubRoughness;')
        .replace('#include <metalnessmap_fragment>', 'float metalnessFactor = ubMetalness;')
        .replace('#include <normal_fragment_begin>', NORMAL)
        .replace('#include <emissivemap_fragment>', 'totalEmissiveRadiance = ubEmission;')
        .replace(
          '#include <lights_physical_fragment>',
          exchanged(ShaderChunk.lights_physical_fragment, /vec3 dxy = [^;]*;/, TURNS),
        )
        .replace('#include <lights_fragment_maps>', `#include <lights_fragment_maps>\n${SHADOW}`)
        .replace('#include <lights_fragment_end>', `#include <lights_fragment_end>\n${THROUGH}`)
        .replace('#include <aomap_fragment>', CONTACT)
        .replace('#include <tonemapping_fragment>', DEVELOP)
        .replace('#include <colorspace_fragment>', '')
    }
    this.customProgramCacheKey = () => `light ${glows} ${tilts}`
  }
}

/** A target for pictures that are ready to be shown: encoded for display. */
export const pictureTarget = (width: number, height: number): WebGLRenderTarget =>
  new WebGLRenderTarget(width, height, { type: HalfFloatType, depthBuffer: false, generateMipmaps: false })

/** Whether something shines, lets light through or is closed off from it: then there are pictures of that, too. */
const hasGlow = ({ pictures }: Channels): boolean => pictures.includes('glow')

/** What the light falls on: a sample's channels, and what of the mesh it has to know. */
export interface Lit {
  sample: Sample
  slot: LookSlot
  shadow: ShadowPass
  typical: number
  box: Box
}

/** Whether the finished surface is shown; else it is a channel, or what runs through a port, without light. */
export const isLit = ({ view, shows }: Lighting): boolean =>
  view === 'finished' && shows !== 'value' && shows !== 'color'

/** Where the ground is darkened: by what is near, and in the shadow, whose blockers are looked for around a place. */
function darkenedBy(
  { key, turn, shadows }: Lighting,
  box: Box,
  shadow: ShadowPass,
  camera: Camera,
): Place[] | undefined {
  const around = MathUtils.clamp(Math.tan(key.radius) * 0.25, 2 / shadow.size, 0.06) + 4 / shadow.size
  const margin = Math.max(contactAround(box), shadows ? around * shadow.extent : 0)
  return groundArea(toClipOf(camera), box, margin, shadows ? keyFrom(key, turn) : undefined)
}

/** The third pass: light on the channels. Nothing of a look is evaluated here. */
export class LightPass {
  private readonly u: Record<string, IUniform> = {
    ubColorPicture: { value: null },
    ubFacingPicture: { value: null },
    ubReliefPicture: { value: null },
    ubGlowPicture: { value: null },
    ubThroughPicture: { value: null },
    ubContactPicture: { value: null },
    ubShadowMap: { value: null },
    ubRamp: { value: rampTexture() },
    ubShadowMatrix: { value: new Matrix4() },
    ubInverseProjection: { value: new Matrix4() },
    ubCameraMatrix: { value: new Matrix4() },
    ubSize: { value: new Vector2() },
    ubBackground: { value: new Color() },
    ubKeyFrom: { value: new Vector3() },
    ubKeyIrradiance: { value: new Vector3() },
    ubOnGround: { value: new Vector3() },
    ubKeyRadius: { value: 0.1 },
    ubShadowExtent: { value: 1 },
    ubShadowSize: { value: 1 },
    ubStride: { value: 1 },
    ubThickness: { value: 1 },
    ubSample: { value: 0 },
    ubWeight: { value: 1 },
    ubBends: { value: false },
    ubWidens: { value: true },
    ubStraight: { value: false },
    ubGround: { value: false },
    ubShadows: { value: false },
    ubContact: { value: false },
    ubView: { value: 0 },
    ubSpan: { value: [0, 1] },
    ubFalse: { value: false },
  }

  private readonly finished = new Map<string, LightMaterial>()
  private readonly channels = new ShaderMaterial({
    vertexShader: FULL_VERTEX,
    fragmentShader: CHANNELS_FRAGMENT,
    uniforms: this.u,
    ...WEIGHED,
  })
  private readonly glowing = new ShaderMaterial({
    vertexShader: FULL_VERTEX,
    fragmentShader: CHANNELS_FRAGMENT,
    uniforms: this.u,
    defines: { UB_GLOWS: '' },
    ...WEIGHED,
  })
  private readonly ground = new ShaderMaterial({
    vertexShader: FULL_VERTEX,
    fragmentShader: GROUND_FRAGMENT,
    uniforms: this.u,
    ...WEIGHED,
  })

  private readonly area = new Area()

  constructor(private readonly full: FullPass) {}

  /**
   * @param target a picture with as many pixels as the sample, or with every second or third of them
   * @param region what of the picture is drawn; all of it where it is left out
   */
  draw(
    renderer: WebGLRenderer,
    { sample, slot, shadow, typical, box }: Lit,
    lighting: Lighting,
    target: WebGLRenderTarget,
    weight: number,
    region: Region = WHOLE,
  ): void {
    const { camera, tiles } = sample
    const channels = sample.channels[slot]
    if (!channels) return
    const { u, full } = this
    const { environment, key, turn, brightness, view, shows, probed, background } = lighting
    const lit = isLit(lighting)
    const texture = (name: ChannelPicture) => channels.target.textures[channels.pictures.indexOf(name)] ?? null
    u.ubColorPicture!.value = texture('color')
    u.ubFacingPicture!.value = texture('facing')
    u.ubReliefPicture!.value = texture('relief')
    u.ubGlowPicture!.value = texture('glow')
    u.ubThroughPicture!.value = texture('through')
    u.ubContactPicture!.value = sample.contact?.texture ?? null
    u.ubContact!.value = lighting.contact && sample.contact !== undefined
    u.ubShadows!.value = lighting.shadows
    u.ubShadowMap!.value = shadow.target.texture
    ;(u.ubShadowMatrix!.value as Matrix4).copy(shadow.matrix)
    u.ubShadowExtent!.value = shadow.extent
    u.ubShadowSize!.value = shadow.size
    u.ubStride!.value = Math.round(sample.width / target.width)
    ;(u.ubKeyFrom!.value as Vector3).copy(keyFrom(key, turn))
    ;(u.ubKeyIrradiance!.value as Vector3).set(...key.irradiance).multiplyScalar(brightness)
    ;(u.ubOnGround!.value as Vector3).set(...key.onGround).multiplyScalar(brightness)
    u.ubKeyRadius!.value = key.radius
    u.ubThickness!.value = typical
    ;(u.ubInverseProjection!.value as Matrix4).copy(camera.projectionMatrixInverse)
    ;(u.ubCameraMatrix!.value as Matrix4).copy(camera.matrixWorld)
    u.ubGround!.value = lighting.ground
    u.ubStraight!.value = 'isOrthographicCamera' in camera
    ;(u.ubSize!.value as Vector2).set(sample.width, sample.height)
    ;(u.ubBackground!.value as Color).copy(background)
    u.ubSample!.value = sample.number
    u.ubWeight!.value = weight
    u.ubBends!.value = lighting.bends
    u.ubWidens!.value = lighting.widens
    u.ubView!.value = shows === 'value' || shows === 'color' ? PROBES[shows] : VIEWS.indexOf(view)
    u.ubSpan!.value = probed.span
    u.ubFalse!.value = probed.falseColors
    full.scene.environment = environment
    full.scene.environmentRotation.set(0, (turn * Math.PI) / 180, 0)
    full.scene.environmentIntensity = brightness
    keepTo(target, region)
    if (weight === 1) {
      renderer.setRenderTarget(target)
      // Its numbers are those of the display already, and targets take them as they are.
      renderer.setClearColor(background, 1)
      renderer.clear()
    }
    const glows = hasGlow(channels)
    if (lit) {
      full.draw(renderer, this.finishedBy(glows, lighting.tilts), target, camera, tiles?.surface)
      if (lighting.ground) this.drawGround(renderer, { sample, slot, shadow, typical, box }, lighting, target)
    } else full.draw(renderer, glows ? this.glowing : this.channels, target, camera, tiles?.surface)
    target.scissorTest = false
  }

  /** Darkens the ground where anything keeps light from it; elsewhere it is the background, which is there already. */
  private drawGround(
    renderer: WebGLRenderer,
    { sample, shadow, box }: Lit,
    lighting: Lighting,
    target: WebGLRenderTarget,
  ): void {
    const { camera } = sample
    const corners = darkenedBy(lighting, box, shadow, camera)
    if (corners) this.area.set(corners)
    this.full.draw(renderer, this.ground, target, camera, corners && this.area.geometry)
  }

  /** Compiles what lights a look, in the background. */
  async ready(
    renderer: WebGLRenderer,
    { sample, slot }: Lit,
    { environment, tilts }: Lighting,
    target: WebGLRenderTarget,
  ): Promise<void> {
    const { camera } = sample
    this.full.scene.environment = environment
    const glows = hasGlow(sample.channels[slot]!)
    await this.full.ready(renderer, this.finishedBy(glows, tilts), target, camera)
    await this.full.ready(renderer, this.ground, target, camera)
  }

  private finishedBy(glows: boolean, tilts: boolean): LightMaterial {
    const key = `${glows} ${tilts}`
    const old = this.finished.get(key)
    if (old) return old
    const made = new LightMaterial(this.u, glows, tilts)
    this.finished.set(key, made)
    return made
  }

  dispose(): void {
    this.area.dispose()
    for (const material of [...this.finished.values(), this.channels, this.glowing, this.ground]) material.dispose()
  }
}

/** Where the key light of a rig comes from once the rig is turned about the vertical. */
export function keyFrom({ from }: KeyLight, turn: number): Vector3 {
  return new Vector3(...from).applyAxisAngle(new Vector3(0, 1, 0), (turn * Math.PI) / 180)
}
