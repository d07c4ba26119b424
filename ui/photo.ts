// A photo is made smaller before it is sent: a phone's own size is more than
// anybody needs to see a cable by. Where the browser cannot, it goes as it is.
import exifr from "exifr/dist/mini.esm.mjs";

const longest = 1600;

/** When a picture was taken: by the camera's own note, else as old as its file is. */
async function taken(file: File): Promise<Date> {
  const note = (await exifr.parse(file, ["DateTimeOriginal"]).catch(() => undefined)) as { DateTimeOriginal?: unknown } | undefined;
  const at = note?.DateTimeOriginal;
  return at instanceof Date && !Number.isNaN(at.getTime()) ? at : new Date(file.lastModified);
}

export async function smaller(form: HTMLFormElement): Promise<FormData> {
  const data = new FormData(form);
  const file = data.get("file");
  if (!(file instanceof File) || !file.type.startsWith("image/")) return data;
  data.set("taken", (await taken(file)).toISOString());
  try {
    const bitmap = await createImageBitmap(file);
    const by = Math.min(1, longest / Math.max(bitmap.width, bitmap.height));
    if (by === 1 && file.size < 1_000_000) return data;
    const canvas = document.createElement("canvas");
    canvas.width = Math.round(bitmap.width * by);
    canvas.height = Math.round(bitmap.height * by);
    canvas.getContext("2d")?.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
    const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, "image/jpeg", 0.85));
    if (blob) data.set("file", new File([blob], file.name.replace(/\.\w+$/, ".jpg"), { type: "image/jpeg" }));
  } catch {
    // not a picture this browser reads: the server says so
  }
  return data;
}
