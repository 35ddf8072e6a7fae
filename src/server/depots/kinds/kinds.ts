import { joinRaw, type Raw } from "@/core/names/raw";
import type { Disk } from "../../disk/disk";
import type { DepotAddress, DepotStore } from "../store";
import { folderStore } from "./folder";

const kinds: { [K in DepotAddress["kind"]]: (address: DepotAddress & { kind: K }, disk: Disk) => DepotStore } = {
  folder: folderStore,
};

/** Opens a depot; on this thread, with this disk. */
export const storeAt = (address: DepotAddress, disk: Disk): DepotStore => kinds[address.kind](address, disk);

/** Where an entry of a depot lies on this computer, if it does. */
export const placeOnDisk = (address: DepotAddress, path: Raw): Raw | undefined =>
  address.kind === "folder" ? joinRaw(address.folder, path) : undefined;
