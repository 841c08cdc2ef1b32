/** Saves a file that was made for this page, as if it had been downloaded. */
export function saveFile(name: string, content: BlobPart, type?: string): void {
  const url = URL.createObjectURL(new Blob([content], type ? { type } : {}));
  const link = document.createElement("a");
  link.href = url;
  link.download = name;
  link.click();
  URL.revokeObjectURL(url);
}
