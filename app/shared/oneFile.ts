/** Several mesh files that belong together become one, as the readers take it: a zip, named after the mesh. */
export async function oneFile(files: readonly File[]): Promise<File> {
  const main = files.find(f => /\.(glb|gltf|obj|ply|zip)$/i.test(f.name)) ?? files[0]!
  if (files.length === 1) return main
  const { zipSync } = await import('fflate')
  const entries = await Promise.all(files.map(async f => [f.name, new Uint8Array(await f.arrayBuffer())] as const))
  return new File([zipSync(Object.fromEntries(entries), { level: 0 })], main.name.replace(/\.[^.]*$/, '.zip'))
}
