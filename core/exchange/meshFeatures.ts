import {
  Extension,
  ExtensionProperty,
  PropertyType,
  type Document,
  type Graph,
  type Nullable,
} from '@gltf-transform/core'
import type { IProperty, WriterContext } from '@gltf-transform/core'

const NAME = 'EXT_mesh_features'

interface Ids extends IProperty {
  count: number
}

/** The feature ids of a primitive: its attribute `_FEATURE_ID_0` says which part each vertex belongs to. */
class FeatureIds extends ExtensionProperty<Ids> {
  static override EXTENSION_NAME = NAME
  declare extensionName: typeof NAME
  declare propertyType: 'FeatureIds'
  declare parentTypes: [PropertyType.PRIMITIVE]

  protected override init(): void {
    this.extensionName = NAME
    this.propertyType = 'FeatureIds'
    this.parentTypes = [PropertyType.PRIMITIVE]
  }
  protected override getDefaults(): Nullable<Ids> {
    return Object.assign(super.getDefaults() as IProperty, { count: 0 })
  }
  get count(): number {
    return this.get('count')
  }
  setCount(count: number): this {
    return this.set('count', count)
  }
}

/** EXT_mesh_features, as far as it is written here: the number of its part on every vertex. */
export class MeshFeatures extends Extension {
  static override readonly EXTENSION_NAME = NAME
  override readonly extensionName = NAME

  createIds(count: number): FeatureIds {
    return new FeatureIds(this.document.getGraph() as Graph<never>).setCount(count)
  }
  override read(): this {
    return this
  }
  override write(context: WriterContext): this {
    for (const mesh of this.document.getRoot().listMeshes())
      for (const [i, primitive] of mesh.listPrimitives().entries()) {
        const ids = primitive.getExtension<FeatureIds>(NAME)
        const at = context.meshIndexMap.get(mesh)
        const written = at === undefined ? undefined : context.jsonDoc.json.meshes?.[at]?.primitives[i]
        if (!ids || !written) continue
        written.extensions = {
          ...written.extensions,
          [NAME]: { featureIds: [{ featureCount: ids.count, attribute: 0, label: 'part' }] },
        }
      }
    return this
  }
}

/** The extension of a document, made when it is first asked for. */
export const features = (document: Document): MeshFeatures => document.createExtension(MeshFeatures)
