/**
 * For esbuild: takes three from its own files, and not from its one large one, of which what nobody needs would come
 * along.
 */
export const threeInParts = {
  name: 'three in parts',
  setup(bundle) {
    bundle.onResolve({ filter: /^three$/ }, ({ resolveDir, kind }) =>
      bundle.resolve('three/src/Three.Core.js', { resolveDir, kind }),
    )
  },
}
