import {
  DataTexture,
  GLSL3,
  NoBlending,
  ShaderMaterial,
  Vector3,
  Vector4,
  type IUniform,
  type WebGLRenderer,
} from 'three'
import { plainView, type OfMesh } from '#core/evaluate/ofMesh'
import type { MeshTables } from '#core/evaluate/tables'
import { GROUND, GROUND_PART } from '#core/evaluate/visible'
import { LIST_CELL, listTexture } from './meshTextures'
import { FULL_VERTEX, noWords, type FullPass } from './passes'
import type { Camera, Sample } from './sample'
import { lineOf } from './sightline'

const KINDS = { part: 0, patch: 1, uv: 2, values: 3 } as const

/** The same as `paintOfMesh`, number by number. */
const FRAGMENT = `
precision highp float;
precision highp int;
uniform highp usampler2D ubSeen;
uniform highp usampler2D ubTriangles;
uniform highp sampler2D ubVertexList;
uniform highp sampler2D ubNumbers;
uniform int ubKind;
uniform vec4 ubEye;
uniform vec3 ubLight;
layout(location = 0) out highp vec4 told;
${LIST_CELL}
float ubNumber(int i) { return texelFetch(ubNumbers, ubCell(i / 4), 0)[i % 4]; }
void main() {
  uvec4 seen = texelFetch(ubSeen, ivec2(gl_FragCoord.xy), 0);
  if (seen.x == 0u) discard;
  float depth = uintBitsToFloat(seen.w);
  if (seen.x == ${GROUND}u) {
    told = vec4(0.0, depth, 0.0, ${GROUND_PART}.0);
    return;
  }
  int number = int(seen.x) - 1;
  uvec4 triangle = texelFetch(ubTriangles, ubCell(number), 0);
  vec3 w = vec3(0.0, uintBitsToFloat(seen.y), uintBitsToFloat(seen.z));
  w.x = 1.0 - w.y - w.z;
  vec4 place[3];
  vec4 turned[3];
  for (int k = 0; k < 3; k++) {
    place[k] = texelFetch(ubVertexList, ubCell(int(triangle[k]) * 2), 0);
    turned[k] = texelFetch(ubVertexList, ubCell(int(triangle[k]) * 2 + 1), 0);
  }
  vec4 at = place[0] * w.x + place[1] * w.y + place[2] * w.z;
  vec4 facing = turned[0] * w.x + turned[1] * w.y + turned[2] * w.z;
  float part = float(triangle.w + 1u);
  if (ubKind == ${KINDS.uv}) {
    told = vec4(at.w, depth, facing.w, part);
    return;
  }
  float value = 0.0;
  if (ubKind == ${KINDS.values})
    value = ubNumber(int(triangle.x)) * w.x + ubNumber(int(triangle.y)) * w.y + ubNumber(int(triangle.z)) * w.z;
  if (ubKind == ${KINDS.patch}) value = ubNumber(number);
  vec3 across = cross(place[1].xyz - place[0].xyz, place[2].xyz - place[0].xyz);
  vec3 normal = normalize(facing.xyz) * (dot(across, ubEye.xyz - ubEye.w * place[0].xyz) < 0.0 ? -1.0 : 1.0);
  told = vec4(value, depth, clamp(dot(normal, ubLight), 0.0, 1.0), part);
}`

/** What is told of the mesh itself, by a shader. */
export class OfMeshOnCard {
  private readonly material: ShaderMaterial
  private readonly uniforms: Record<string, IUniform>
  private numbers?: DataTexture
  private state: 'new' | 'compiling' | 'ready' = 'new'

  /** @param mesh the textures of it */
  constructor(mesh: Record<string, IUniform>, { parts }: MeshTables, what: OfMesh) {
    const { ubTriangles, ubVertexList } = mesh
    if (what.kind === 'values') this.numbers = listTexture(what.values, Math.ceil(what.values.length / 4))
    if (what.kind === 'patch') {
      const patches = Float32Array.from(parts.patchOfTriangle)
      this.numbers = listTexture(patches, Math.ceil(patches.length / 4))
    }
    this.uniforms = {
      ubTriangles: ubTriangles!,
      ubVertexList: ubVertexList!,
      ubNumbers: { value: this.numbers ?? null },
      ubSeen: { value: noWords },
      ubKind: { value: KINDS[what.kind] },
      ubEye: { value: new Vector4() },
      ubLight: { value: new Vector3() },
    }
    this.material = new ShaderMaterial({
      glslVersion: GLSL3,
      vertexShader: FULL_VERTEX,
      fragmentShader: FRAGMENT,
      uniforms: this.uniforms,
      depthTest: false,
      depthWrite: false,
      blending: NoBlending,
    })
  }

  /** Whether it can be drawn; if not, `then` is called when it can. */
  ready(renderer: WebGLRenderer, full: FullPass, camera: Camera, then: () => void): boolean {
    if (this.state === 'new') {
      this.state = 'compiling'
      void full.ready(renderer, this.material, null, camera).then(() => {
        this.state = 'ready'
        then()
      })
    }
    return this.state === 'ready'
  }

  evaluate(renderer: WebGLRenderer, full: FullPass, sample: Sample): void {
    const { uniforms, material } = this
    const { target } = sample.channels.mesh!
    const { eye, light } = plainView(lineOf(sample.camera, sample.width, sample.height))
    uniforms.ubSeen!.value = sample.layers[0]!.texture
    ;(uniforms.ubEye!.value as Vector4).set(...eye)
    ;(uniforms.ubLight!.value as Vector3).set(...light)
    renderer.setRenderTarget(target)
    renderer.setClearColor(0x000000, 0)
    renderer.clear()
    full.draw(renderer, material, target, sample.camera)
  }

  dispose(): void {
    this.numbers?.dispose()
    this.material.dispose()
  }
}
