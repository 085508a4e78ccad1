import { kindFor } from '#core/graph/kinds'
import type { Recipe } from '#core/graph/look'
import type { NodeKind } from '#core/nodes/declare'
import { RECIPES } from '#core/recipes'
import { request } from '../shared/request'

export interface KnownRecipe {
  key: string
  where: 'Comes with Ubblet' | 'Library' | 'In this look'
  recipe: Recipe
  kind: NodeKind
  id?: string
}

const library = shallowRef<{ id: string; recipe: Recipe }[]>([])
let asked = false

/** As a node's declaration: its ports and settings. */
const kindOfRecipe = (recipe: Recipe): NodeKind =>
  kindFor({ id: 'recipe', kind: 'recipe', at: [0, 0], params: {}, recipe })!
const shipped: KnownRecipe[] = RECIPES.map((recipe, i) => ({
  key: `shipped/${i}`,
  where: 'Comes with Ubblet',
  recipe,
  kind: kindOfRecipe(recipe),
}))

/** The recipes at hand: those that ship, those of the library, and those in the open look. */
export function useRecipes() {
  const project = useProject()
  async function load(): Promise<void> {
    if (asked) return
    asked = true
    try {
      library.value = await request<{ id: string; recipe: Recipe }[]>('/api/recipes')
    } catch {
      // Without the library the others still work; it is asked for again next time.
      asked = false
    }
  }
  const all = computed<KnownRecipe[]>(() => {
    const known = library.value.map(({ id, recipe }): KnownRecipe => ({
      key: `library/${id}`,
      where: 'Library',
      recipe,
      kind: kindOfRecipe(recipe),
      id,
    }))
    const titles = new Set([...shipped, ...known].map(r => r.recipe.title))
    const here: KnownRecipe[] = []
    for (const n of project.look.nodes) {
      if (!n.recipe || titles.has(n.recipe.title)) continue
      titles.add(n.recipe.title)
      here.push({ key: `look/${n.id}`, where: 'In this look', recipe: n.recipe, kind: kindFor(n)! })
    }
    return [...here, ...known, ...shipped]
  })
  async function keep(recipe: Recipe): Promise<void> {
    const { id } = await request<{ id: string }>('/api/recipes', { method: 'POST', json: { recipe } })
    library.value = library.value.concat({ id, recipe })
  }
  async function forget(id: string): Promise<void> {
    await request(`/api/recipes/${id}`, { method: 'DELETE' })
    library.value = library.value.filter(r => r.id !== id)
  }
  return { all, load, keep, forget }
}
