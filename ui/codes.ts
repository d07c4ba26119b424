// Reads a bar code or a square code from a photo. It is large, and is loaded when it is first asked for.
import { BinaryBitmap, DecodeHintType, HTMLCanvasElementLuminanceSource, HybridBinarizer, MultiFormatReader } from "@zxing/library";

/** Sizes at which a photo is tried, in pixels along its longer side: a code may fill it or be small in it. */
const sizes = [1000, 1800, 600];

/** What the first code in a photo says; undefined where none is found, an error where it is no photo. */
export async function readCode(photo: Blob): Promise<string | undefined> {
  const bitmap = await createImageBitmap(photo);
  const reader = new MultiFormatReader();
  reader.setHints(new Map<DecodeHintType, unknown>([[DecodeHintType.TRY_HARDER, true]]));
  for (const size of sizes) {
    for (const quarter of [0, 1]) {
      const by = size / Math.max(bitmap.width, bitmap.height);
      const [w, h] = [Math.round(bitmap.width * by), Math.round(bitmap.height * by)];
      const canvas = document.createElement("canvas");
      [canvas.width, canvas.height] = quarter ? [h, w] : [w, h];
      const ink = canvas.getContext("2d")!;
      if (quarter) {
        ink.translate(h, 0);
        ink.rotate(Math.PI / 2);
      }
      ink.drawImage(bitmap, 0, 0, w, h);
      try {
        return reader.decodeWithState(new BinaryBitmap(new HybridBinarizer(new HTMLCanvasElementLuminanceSource(canvas)))).getText();
      } catch {
        // none at this size
      }
    }
  }
  return undefined;
}

Object.assign(window, { readCode });
