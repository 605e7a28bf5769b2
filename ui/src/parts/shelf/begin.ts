// A batch begun with files alone: its name is proposed from the folder, from what the names share, or from the day.
import { answer, api, type Study } from "../../api/client";
import { queries } from "../../state/ask";
import { place } from "../../state/place.svelte";
import { intake } from "../../stations/batch/intake.svelte";

/** Where batches stand that nobody has put into a study yet. */
const unsorted = "Unsorted";
const few = 12; // files, which are looked at as a whole
const deepest = 8; // folders within folders that are looked into

/** What was dropped: the files, with those of folders, and the folder's name where it was one folder. */
export async function dropped(data: DataTransfer): Promise<{ files: File[]; folder: string }> {
  const entries = [...data.items].map((i) => i.webkitGetAsEntry()).filter((e): e is FileSystemEntry => e !== null);
  if (entries.length === 0) return { files: [...data.files], folder: "" };
  const files = (await Promise.all(entries.map((e) => within(e, 0)))).flat();
  return { files, folder: entries.length === 1 && entries[0]!.isDirectory ? entries[0]!.name : "" };
}

async function within(entry: FileSystemEntry, depth: number): Promise<File[]> {
  if (entry.isFile) return [await new Promise<File>((got, failed) => (entry as FileSystemFileEntry).file(got, failed))];
  if (depth >= deepest) return [];
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const all: FileSystemEntry[] = [];
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((got, failed) => reader.readEntries(got, failed));
    if (some.length === 0) break; // a folder is read in pieces
    all.push(...some);
  }
  const visible = all.filter((e) => !e.name.startsWith("."));
  return (await Promise.all(visible.map((e) => within(e, depth + 1)))).flat();
}

/** What all names begin with, as long as it is a word; else the day. */
export function proposedName(files: File[], folder: string): string {
  if (folder) return folder;
  const names = files.map((f) => f.name.replace(/\.[^.]*$/, ""));
  let stem = names[0] ?? "";
  for (const n of names) while (!n.startsWith(stem)) stem = stem.slice(0, -1);
  stem = names.length > 1 ? stem.replace(/[\s_\-.,(]*\d*$/, "").trim() : stem;
  if (stem.replace(/[^\p{L}]/gu, "").length >= 4) return stem;
  return `Batch of ${new Date().toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" })}`;
}

/** Starts a batch with the files and opens it while they come in. */
export async function begin(studies: Study[], files: File[], folder: string) {
  if (files.length === 0) throw new Error("There is no file in what was dropped.");
  const taken = new Set(studies.find((s) => s.name === unsorted)?.batches.map((b) => b.name));
  const wanted = proposedName(files, folder).slice(0, 190);
  let name = wanted;
  for (let n = 2; taken.has(name); n++) name = `${wanted} ${n}`;
  const { id } = await answer(api.POST("/api/batches", { body: { study: unsorted, name } }));
  await queries.invalidateQueries({ queryKey: ["studies"] });
  intake.clear();
  intake.add(id, files);
  place.go({ batch: id, station: "batch", query: { i: "", c: "", face: files.length <= few ? "way" : "list" } });
}
