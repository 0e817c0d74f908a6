/** All files that were dropped, those in folders too, in the order of their names; hidden ones are left out. */
export async function filesOf(dropped: DataTransfer): Promise<File[]> {
  const entries = [...dropped.items]
    .map((item) => item.webkitGetAsEntry?.())
    .filter((entry) => entry != null);
  const files = entries.length > 0 ? (await Promise.all(entries.map(within))).flat() : [...dropped.files];
  return files.filter((file) => !file.name.startsWith("."));
}

async function within(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile) {
    return [await new Promise<File>((done, failed) => (entry as FileSystemFileEntry).file(done, failed))];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: FileSystemEntry[] = [];
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((done, failed) => reader.readEntries(done, failed));
    if (some.length === 0) break; // a folder is read a hundred at a time
    found.push(...some);
  }
  found.sort((one, other) => one.name.localeCompare(other.name));
  return (await Promise.all(found.map(within))).flat();
}

/** Files that were dropped anywhere on a page, until its import takes them. */
export interface Dropped {
  files: File[];
  clear: () => void;
}
