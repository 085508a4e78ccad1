/** How long a browser may take to begin a download, in milliseconds. */
const BEGINS = 10_000

/** Has the browser save something under a name. */
export function saveFile(blob: Blob, name: string): void {
  const url = URL.createObjectURL(blob)
  Object.assign(document.createElement('a'), { href: url, download: name }).click()
  setTimeout(() => URL.revokeObjectURL(url), BEGINS)
}
