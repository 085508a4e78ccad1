<script setup lang="ts">
import { scaleLinear } from 'd3-scale'
import { max } from 'd3-array'
import type { Reading } from '#core/evaluate/analysis'
import { count } from '../shared/units'

const { analysis } = useAnalysis()
const readings = computed(() => analysis.value?.readings ?? [])
const WIDTH = 360
const HEIGHT = 64
const TALL = 96
const project = useProject()
const mesh = useMesh()
const dots = computed(() => {
  const d = analysis.value?.dots
  if (!d || d.parts.length < 2) return null
  if (d.of === 'color') {
    const places = d.parts.map(p => ({
      part: p.part,
      x: (p.hue / 360) * WIDTH,
      y: TALL - p.lightness * TALL,
      fill: p.hex,
      says: `${Math.round(p.hue)}°, lightness ${p.lightness.toFixed(2)}`,
    }))
    return { places, title: 'Hue and lightness of each part', from: '0°', to: '360°' }
  }
  const low = Math.min(0, d.parts[0]!.value)
  const high = Math.max(1, d.parts.at(-1)!.value)
  const places = d.parts.map((p, i) => ({
    part: p.part,
    x: ((i + 0.5) / d.parts.length) * WIDTH,
    y: TALL - ((p.value - low) / (high - low)) * (TALL - 6) - 3,
    fill: 'currentColor',
    says: figure(p.value),
  }))
  return { places, title: 'Parts by value', from: 'lowest', to: 'highest' }
})
const nameOf = (part: number): string => project.tables?.parts.parts[part]?.name ?? ''

const bars = (r: Reading) => {
  const x = scaleLinear([0, r.shares.length], [0, WIDTH])
  const y = scaleLinear([0, max(r.shares) ?? 1], [0, HEIGHT - 4])
  return r.shares.map((share, i) => ({
    x: x(i),
    width: Math.max(1, x(1) - 1),
    y: HEIGHT - y(share),
    height: y(share),
    color: r.colors?.[i],
  }))
}
const place = (r: Reading, v: number) => scaleLinear([r.from, r.to], [0, WIDTH])(v)
const figure = (v: number) => Number(v.toFixed(3)).toString()
</script>

<template>
  <div v-if="readings.length" class="readings">
    <figure v-for="r in readings" :key="r.title">
      <figcaption>
        <span>{{ r.title }}, by area of the surface</span>
        <span class="num">{{ figure(r.low) }} – {{ figure(r.high) }}, mean {{ figure(r.mean) }}</span>
      </figcaption>
      <svg
        :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
        preserveAspectRatio="none"
        role="img"
        :aria-label="`Histogram: ${r.title}, from ${figure(r.low)} to ${figure(r.high)}, mean ${figure(r.mean)}`"
      >
        <rect
          v-for="(b, i) in bars(r)"
          :key="i"
          :x="b.x"
          :y="b.y"
          :width="b.width"
          :height="b.height"
          :fill="b.color ?? 'currentColor'"
        />
        <line :x1="place(r, r.mean)" :x2="place(r, r.mean)" y1="0" :y2="HEIGHT" class="mean" />
      </svg>
      <div class="ends num"><span>{{ figure(r.from) }}</span><span>{{ figure(r.to) }}</span></div>
    </figure>
    <figure v-if="dots">
      <figcaption><span>{{ dots.title }}</span><span>{{ count(dots.places.length, 'part') }}</span></figcaption>
      <svg
        class="dots"
        :viewBox="`0 0 ${WIDTH} ${TALL}`"
        preserveAspectRatio="none"
        role="img"
        :aria-label="`${dots.title}: ${count(dots.places.length, 'part')}`"
      >
        <line
          v-for="d in dots.places"
          :key="d.part"
          :x1="d.x"
          :x2="d.x + 0.01"
          :y1="d.y"
          :y2="d.y"
          :stroke="d.fill"
          :class="{ on: mesh.selected.has(d.part) }"
          @click="mesh.select([d.part])"
        >
          <title>{{ nameOf(d.part) }}: {{ d.says }}</title>
        </line>
      </svg>
      <div class="ends num"><span>{{ dots.from }}</span><span>{{ dots.to }}</span></div>
    </figure>
  </div>
</template>

<style scoped>
.readings {
  padding: 12px 26px 0 0;
  display: grid;
  gap: 10px;
}
figcaption {
  display: flex;
  justify-content: space-between;
  color: var(--ub-quiet);
  padding-bottom: 4px;
  gap: 8px;
}
figcaption .num {
  font-size: 11px;
}
svg {
  width: 100%;
  height: 64px;
  display: block;
  color: var(--ub-line-strong);
  background: var(--ub-canvas);
}
.dots {
  height: 96px;
  color: var(--ub-quiet);
}
.dots line {
  stroke-width: 6;
  stroke-linecap: round;
  vector-effect: non-scaling-stroke;
  cursor: pointer;
}
.dots line.on {
  stroke-width: 11;
}
.mean {
  stroke: var(--ub-accent);
  stroke-width: 1.5;
  vector-effect: non-scaling-stroke;
}
.ends {
  display: flex;
  justify-content: space-between;
  font-size: 11px;
  color: var(--ub-quiet);
}
</style>
