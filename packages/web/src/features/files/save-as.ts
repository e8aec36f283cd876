/** Hands text to the browser as a file to keep. */
export function saveAs(name: string, text: string, type: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([text], { type }))
  link.download = name.replace(/[\\/:*?"<>|]+/g, ' ').trim()
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}
