// The text of a table as spreadsheets write it: UTF-8, UTF-16 by its mark, else Latin-1.
export const isTable = (f: File) => /\.(csv|tsv|txt)$/i.test(f.name) || f.type === 'text/csv';

export async function tableText(f: File): Promise<string> {
  const bytes = await f.arrayBuffer();
  const [a, b] = new Uint8Array(bytes);
  if (a === 0xff && b === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
  if (a === 0xfe && b === 0xff) return new TextDecoder('utf-16be').decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}
