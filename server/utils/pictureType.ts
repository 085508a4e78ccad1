/** Kinds of pictures by how their bytes begin: what every browser reads. */
const KINDS: [type: string, begins: (b: Buffer) => boolean][] = [
  ['image/png', b => b.subarray(0, 8).equals(Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]))],
  ['image/jpeg', b => b[0] === 0xff && b[1] === 0xd8 && b[2] === 0xff],
  ['image/webp', b => b.toString('latin1', 0, 4) === 'RIFF' && b.toString('latin1', 8, 12) === 'WEBP'],
]
export const pictureType = (bytes: Buffer): string | undefined => KINDS.find(([, begins]) => begins(bytes))?.[0]
