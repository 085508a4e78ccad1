import { describe, expect, it } from 'vitest'
import { readMaterialX } from '#core/exchange/readMaterialX'
import { DEMOS } from '../../demo'
import { delivered } from '../delivered'
import { row } from '../helpers'
import { standard } from '../standard'
import { materialXOf } from '../usdMaterialX'

const library = await standard()
const text = (bytes: Uint8Array | undefined): string => new TextDecoder().decode(bytes)

describe('MaterialX documents, by the library of the standard', () => {
  it('find a fault where there is one', async () => {
    expect(library.version).toMatch(/^1\.39\./)
    const faults = await library.faults(
      '<?xml version="1.0"?><materialx version="1.39"><mix name="m" type="float"><input name="fg" type="color3" value="1, 0, 0"/></mix><surfacematerial name="M" type="material"><input name="surfaceshader" type="surfaceshader" nodename="nobody"/></surfacematerial></materialx>',
    )
    expect(faults).toEqual([
      expect.stringContaining("Input 'fg' doesn't match"),
      expect.stringContaining('Invalid port connection'),
    ])
  })
  it.each(DEMOS.flatMap(d => d.looks.map(make => make())).map(look => [look.name, look] as const))(
    '%s is valid and becomes a shader, baked and procedural',
    async (_, look) => {
      const { files, manifest } = await delivered(row(4), look, {
        meshes: [],
        materials: ['baked', 'procedural'],
        relief: 'both',
        size: 256,
      })
      for (const path of ['it.mtlx', 'it.procedural.mtlx']) {
        const xml = text(files.get(path))
        expect(await library.faults(xml), path).toEqual([])
        // The surface is evaluated, not left out: what it reads is in the shader.
        const shader = await library.shader(xml)
        expect(shader.length, path).toBeGreaterThan(20_000)
        expect(shader, path).toMatch(/open_pbr_surface|gltf_pbr/)
        if (path === 'it.mtlx') expect(shader).toMatch(/sampler2D \w*file/)
      }
      expect(manifest.files.some(f => f.path === 'it.procedural.mtlx')).toBe(true)
    },
  )
  it.each(DEMOS.flatMap(d => d.looks.map(make => make())).map(look => [look.name, look] as const))(
    '%s is valid as a network in USD, too, and becomes a shader with its pictures',
    async (_, look) => {
      const { files } = await delivered(row(4), look, { meshes: ['usda'], relief: 'both', size: 256 })
      const xml = materialXOf(text(files.get('it.usda')))
      expect(await library.faults(xml)).toEqual([])
      const shader = await library.shader(xml)
      expect(shader).toContain('open_pbr_surface')
      expect(shader).toMatch(/sampler2D \w*file/)
      // The library would say so if a name were not the standard's.
      expect(await library.faults(xml.replace('ND_image_color3', 'ND_picture_color3'))).not.toEqual([])
      expect(await library.faults(xml.replace('"specular_roughness"', '"gloss"'))).not.toEqual([])
    },
  )
  it('that the library wrote are read as the same look as our own', async () => {
    const { files } = await delivered(row(2), DEMOS[0]!.looks[0]!(), {
      meshes: [],
      materials: ['baked', 'procedural'],
      relief: 'both',
      size: 256,
    })
    for (const path of ['it.mtlx', 'it.procedural.mtlx']) {
      const xml = text(files.get(path))
      const own = readMaterialX(xml, 'x')
      const theirs = readMaterialX(await library.rewritten(xml), 'x')
      expect(
        theirs.look.nodes.map(n => [n.kind, n.params]),
        path,
      ).toEqual(own.look.nodes.map(n => [n.kind, n.params]))
      expect(theirs.look.wires, path).toEqual(own.look.wires)
    }
  })
})
