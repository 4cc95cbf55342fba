/** The content of a file as base64, as the API takes it. */
export async function toBase64(file: File): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  let text = '';
  for (let from = 0; from < bytes.length; from += 8192)
    text += String.fromCharCode(...bytes.subarray(from, from + 8192));
  return btoa(text);
}

/** Has the browser keep a file that the API answered. @param content its bytes in base64 */
export const saveFile = ({ name, type, content }: { name: string; type: string; content: string }): void =>
  save(name, new Blob([Uint8Array.from(atob(content), (letter) => letter.charCodeAt(0))], { type }));

/** Has the browser keep a text that stands on the page. */
export const saveText = ({ name, type, text }: { name: string; type: string; text: string }): void =>
  save(name, new Blob([text], { type }));

function save(name: string, content: Blob): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(content);
  link.download = name;
  link.click();
  // The browser has taken it by then.
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
