/** Hands a text to the browser as a file. */
export function saveFile(name: string, type: string, text: string): void {
  const address = URL.createObjectURL(new Blob([text], { type }));
  const anchor = document.createElement('a');
  anchor.href = address;
  anchor.download = name;
  anchor.click();
  URL.revokeObjectURL(address);
}
