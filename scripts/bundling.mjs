// What the bundles of esbuild share.

/** Takes three from its own files, and not from its one large one, of which what nobody needs would come along. */
export const threeInParts = {
  name: 'three in parts',
  setup(bundle) {
    bundle.onResolve({ filter: /^three$/ }, ({ resolveDir, kind }) =>
      bundle.resolve('three/src/Three.Core.js', { resolveDir, kind }),
    )
  },
}

/** Before the code of a module for Node: what is within it may ask for packages as older ones do. */
export const WITH_REQUIRE = {
  js: 'import { createRequire as ubCreateRequire } from "node:module"; const require = ubCreateRequire(import.meta.url);',
}
