import { BackSide, BoxGeometry, BufferAttribute, Color, Mesh, MeshBasicMaterial, PMREMGenerator, Scene, SphereGeometry, type Texture, type WebGLRenderer } from 'three'

/**
 * The image-based light: a gray overcast dome, lighter above, with one broad soft window at the left and a narrow strip
 * behind. Without hue, so that it never tints a judgement.
 */
export function overcastLight(renderer: WebGLRenderer): Texture {
  const scene = new Scene()
  const panel = (intensity: number, size: [number, number, number], at: [number, number, number]) => {
    const mesh = new Mesh(new BoxGeometry(...size), new MeshBasicMaterial({ color: new Color().setScalar(intensity) }))
    mesh.position.set(...at)
    mesh.lookAt(0, 0, 0)
    scene.add(mesh)
  }
  const dome = new SphereGeometry(20, 32, 24)
  const shades = new Float32Array(dome.attributes.position!.count * 3)
  for (let i = 0; i < shades.length / 3; i++) {
    const up = dome.attributes.position!.getY(i) / 20
    shades.fill(0.46 + 0.3 * Math.max(0, up) ** 0.6 - 0.1 * Math.max(0, -up), i * 3, i * 3 + 3)
  }
  dome.setAttribute('color', new BufferAttribute(shades, 3))
  scene.add(new Mesh(dome, new MeshBasicMaterial({ side: BackSide, vertexColors: true })))
  panel(7, [6, 5, 0.1], [-9, 6, 6])
  panel(3, [1.2, 8, 0.1], [10, 4, -5])
  panel(4, [7, 2, 0.1], [2, 13, -3])
  const generator = new PMREMGenerator(renderer)
  const { texture } = generator.fromScene(scene, 0.03)
  generator.dispose()
  scene.traverse((o) => {
    if (o instanceof Mesh) {
      (o.geometry as BoxGeometry).dispose()
      ;(o.material as MeshBasicMaterial).dispose()
    }
  })
  return texture
}
