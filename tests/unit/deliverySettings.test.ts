import { expect, test } from 'vitest'
import { settingsFor } from '../../core/deliver/forLook'
import { parseDelivery } from '../../core/deliver/settings'
import { addNode } from '../../core/graph/edit'
import { emptyLook } from '../../core/graph/look'

test('settings chosen for one look lose what another one does not have, and nothing else', () => {
  const { look } = addNode(emptyLook(), 'noise', [0, 0])
  const settings = parseDelivery({
    maps: ['baseColor'],
    seeds: [0, 4],
    variants: ['Night', 'Day'],
    extra: [
      { name: 'Rust', lanes: ['port:noise1/value'], space: 'linear' },
      { name: 'Packed', lanes: ['roughness', 'port:noise1/value', 'port:palette1/color.r'], space: 'linear' },
      { name: 'Three of one', lanes: ['port:noise1/value.r'], space: 'linear' },
      { name: 'Other port', lanes: ['port:noise1/color.r'], space: 'linear' },
      { name: 'Own', lanes: ['part.r', 'set:rails'], space: 'linear' },
    ],
    vertexMaps: [
      { name: 'grime', lanes: ['port:grime1/value'] },
      { name: 'rough', lanes: ['roughness'] },
    ],
  })
  const kept = settingsFor({ ...look, variants: [{ name: 'Day', values: [] }] }, settings)
  expect(kept).toEqual({
    ...settings,
    variants: ['Day'],
    extra: settings.extra.filter(e => ['Rust', 'Own'].includes(e.name)),
    vertexMaps: [{ name: 'rough', lanes: ['roughness'] }],
  })
})
