import { serveWork } from "./serve-work";
import { carrying } from "./work/carrying";

serveWork(carrying);
