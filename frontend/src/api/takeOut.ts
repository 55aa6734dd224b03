/** Taking a file out where the server may refuse it: the refusal is told, not saved. */
export async function takeOut(url: string): Promise<void> {
  const response = await fetch(url);
  if (!response.ok) throw new Error(((await response.json()) as { message: string }).message);
  const named = /filename="([^"]+)"/.exec(response.headers.get('content-disposition') ?? '');
  saveBlob(await response.blob(), named?.[1] ?? 'piece');
}

/** Have the browser save something under a name. */
export function saveBlob(blob: Blob, name: string) {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
