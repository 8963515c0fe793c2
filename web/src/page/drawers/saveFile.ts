/** Files that the page makes, handed to the browser to be kept. */

/** Hands a file to the browser's downloads. */
export function saveFile(name: string, content: Blob): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(content);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
