import { sumApart } from "../disk/checksum";
import { scanOpenFiles } from "../disk/in-use";
import { install } from "../install";
import { serveWork } from "./serve-work";
import { carrying } from "./work/carrying";
import { syncFolders } from "./work/sync-folders";

sumApart(install("dist/checksum.mjs"));
serveWork({ ...carrying, syncFolders, scanOpenFiles });
