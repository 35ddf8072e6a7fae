import type { Raw } from "@/core/names/raw";
import type { Disk } from "./disk";

export interface SyncInput {
  /** Folders whose entries changed. */
  folders: Raw[];
  /** Folders to which small files were written. */
  written: Raw[];
}

/**
 * Makes durable what was done: each file system once that small files went to, then each folder's entries. May wait for all
 * that other programs have written there.
 */
export function syncAll(disk: Disk, { folders, written }: SyncInput): void {
  const systems = new Set<string>();
  for (const folder of written) {
    // A folder that was taken back meanwhile holds nothing to be made durable.
    const device = disk.deviceOf(folder);
    if (device === undefined || systems.has(device)) continue;
    systems.add(device);
    disk.syncFileSystem(folder);
  }
  for (const folder of folders) disk.syncFolder(folder);
}
