import { scanOpenFiles } from "../disk/in-use";
import { serveWork } from "./serve-work";
import { carrying } from "./work/carrying";
import { syncFolders } from "./work/sync-folders";

serveWork({ ...carrying, syncFolders, scanOpenFiles });
