<script setup lang="ts">
import { inspect } from '#core/exchange/inspect'

const emit = defineEmits<{ choose: [] }>()
const project = useProject()
const report = computed(() => project.tables && inspect(project.tables.mesh, project.tables.parts))
const size = computed(() => report.value?.bounds.max.map((x, k) => Math.abs(x - report.value!.bounds.min[k]!)))
const meters = (x: number) => x >= 1 ? `${x.toFixed(2)} m` : x >= 0.01 ? `${(x * 100).toFixed(1)} cm` : `${(x * 1000).toFixed(2)} mm`
const text = ref('')
const MOST = 500
const parts = computed(() => (report.value?.parts ?? []).filter(p => p.name.toLowerCase().includes(text.value.toLowerCase())))
</script>

<template>
  <section class="mesh" aria-label="Mesh">
    <template v-if="report">
      <header>
        <h2>{{ project.meta?.mesh?.name }}</h2>
        <UButton color="neutral" variant="outline" size="sm" @click="emit('choose')">Replace the mesh</UButton>
      </header>
      <dl>
        <div><dt>Triangles</dt><dd class="num">{{ report.triangles.toLocaleString('en-US') }}</dd></div>
        <div><dt>Objects</dt><dd class="num">{{ report.levels.object }}</dd></div>
        <div><dt>Groups</dt><dd class="num">{{ report.levels.group }}</dd></div>
        <div><dt>Parts</dt><dd class="num" data-test="parts">{{ report.levels.part }}</dd></div>
        <div><dt>UV islands</dt><dd class="num">{{ report.levels.patch }}</dd></div>
        <div><dt>Size</dt><dd class="num">{{ size!.map(meters).join(' × ') }}</dd></div>
      </dl>
      <p v-for="w in report.warnings" :key="w" class="warning"><UIcon name="i-lucide-info" /> {{ w }}</p>
      <h3>Vertex maps</h3>
      <p v-if="!report.attributes.length" class="quiet">None came with the file.</p>
      <table v-else>
        <thead><tr><th>Name</th><th>Numbers</th><th>Range</th></tr></thead>
        <tbody><tr v-for="a in report.attributes" :key="a.name"><td>{{ a.name }}</td><td class="num">{{ a.components }}</td><td class="num">{{ a.range.map(x => x.toFixed(2)).join(' – ') }}</td></tr></tbody>
      </table>
      <h3><label for="part-search">Parts</label> <input id="part-search" v-model="text" placeholder="Search" @keydown.stop></h3>
      <table>
        <thead><tr><th>Name</th><th>Triangles</th><th>Area</th><th>Size</th><th>Key</th></tr></thead>
        <tbody>
          <tr v-for="p in parts.slice(0, MOST)" :key="p.key">
            <td>{{ p.name }}</td><td class="num">{{ p.triangles }}</td><td class="num">{{ (p.area * 1e4).toFixed(1) }} cm²</td><td class="num">{{ p.size.map(meters).join(' × ') }}</td><td class="num quiet">{{ p.key }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="parts.length > MOST" class="quiet">{{ parts.length - MOST }} more; search to narrow them down.</p>
    </template>
    <div v-else class="empty">
      <h2>Bring in a mesh</h2>
      <p>A GLB file made of many parts: drop it anywhere in this window, or choose it. Its parts, materials, UVs and vertex maps are found on arrival.</p>
      <UButton color="primary" @click="emit('choose')">Choose a GLB file</UButton>
      <p class="quiet">Up to 512 MB and 5 million triangles.</p>
    </div>
  </section>
</template>

<style scoped>
.mesh { padding: 22px 28px; overflow-y: auto; background: var(--ub-canvas); scrollbar-width: thin; }
header { display: flex; justify-content: space-between; align-items: center; }
h2 { font-size: 18px; font-weight: 600; }
h3 { font-weight: 500; padding: 20px 0 6px; display: flex; gap: 16px; align-items: center; }
h3 input { background: var(--ub-card); border: 1px solid var(--ub-line); padding: 1px 8px; font-weight: 400; }
dl { display: flex; flex-wrap: wrap; gap: 8px 32px; padding-top: 12px; }
dt { color: var(--ub-quiet); }
dd { font-size: 15px; }
.warning { color: var(--ub-warn); padding-top: 10px; max-width: 70ch; }
.quiet { color: var(--ub-quiet); }
table { width: 100%; border-collapse: collapse; background: var(--ub-card); }
th { text-align: left; font-weight: 400; color: var(--ub-quiet); padding: 4px 10px; border-bottom: 1px solid var(--ub-line); }
td { padding: 3px 10px; border-bottom: 1px solid var(--ub-line); font-size: 12px; white-space: nowrap; }
.empty { max-width: 52ch; margin: 14vh auto 0; display: grid; gap: 12px; justify-items: start; }
</style>
