/** A file with the folder it was found in, "" for none. */
export interface FoundFile {
  file: File;
  folder: string;
}

/** The files a person chose with a file field. */
export function filesChosen(list: FileList): FoundFile[] {
  return [...list].map((file) => ({
    file,
    folder: file.webkitRelativePath.split('/').slice(0, -1).join('/'),
  }));
}

/** All files of a drop, those in folders and their subfolders as well. */
export async function filesOf(transfer: DataTransfer): Promise<FoundFile[]> {
  const entries = [...transfer.items]
    .map((item) => item.webkitGetAsEntry())
    .filter((entry): entry is FileSystemEntry => entry !== null);
  if (entries.length === 0) return filesChosen(transfer.files);
  const found = await Promise.all(entries.map((entry) => filesBelow(entry, '')));
  return found.flat();
}

async function filesBelow(entry: FileSystemEntry, folder: string): Promise<FoundFile[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => {
      (entry as FileSystemFileEntry).file(resolve, reject);
    });
    return [{ file, folder }];
  }
  const inside = folder ? `${folder}/${entry.name}` : entry.name;
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: FoundFile[] = [];
  // A reader hands out its entries in portions, and an empty one at the end.
  for (;;) {
    const portion = await new Promise<FileSystemEntry[]>((resolve, reject) => {
      reader.readEntries(resolve, reject);
    });
    if (portion.length === 0) return found;
    const deeper = await Promise.all(portion.map((one) => filesBelow(one, inside)));
    found.push(...deeper.flat());
  }
}
