import { serveWork } from "./serve-work";
import { compareArchive } from "./work/compare-archive";
import { contentType } from "./work/content-type";
import { drawPng } from "./work/draw-png";
import { findElsewhere } from "./work/find-elsewhere";
import { findFolder } from "./work/find-folder";
import { findInside } from "./work/find-inside";
import { findNearest } from "./work/find-nearest";
import { findTwins } from "./work/find-twins";
import { hashFiles } from "./work/hash-files";
import { hashTwins } from "./work/hash-twins";
import { learnHomes, rankThings } from "./work/learn-homes";
import { measureBlanks } from "./work/measure-blanks";
import { mediaType } from "./work/media-type";
import { notedUses } from "./work/noted-uses";
import { findInParcels, listInParcel, readParcelList, tagFiles } from "./work/parcel-lists";
import { lookAtPicture } from "./work/picture";
import { prunePictures } from "./work/prune-pictures";
import { readWords } from "./work/read-words";
import { readWorktop } from "./work/read-worktop";
import { takenAt } from "./work/taken-at";
import { lookAtText } from "./work/text";
import { walkHomes } from "./work/walk-homes";
import { writeBackup } from "./work/write-backup";

export const work = {
  findFolder,
  readWorktop,
  contentType,
  walkHomes,
  readWords,
  takenAt,
  learnHomes,
  rankThings,
  hashFiles,
  hashTwins,
  findTwins,
  findElsewhere,
  findInside,
  findNearest,
  compareArchive,
  drawPng,
  lookAtPicture,
  lookAtText,
  mediaType,
  notedUses,
  measureBlanks,
  listInParcel,
  findInParcels,
  readParcelList,
  tagFiles,
  writeBackup,
  prunePictures,
};
export type Work = typeof work;

serveWork(work);
