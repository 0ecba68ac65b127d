import bold from "@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-700-normal.woff2?url";
import regular from "@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff2?url";
import type { Look } from "./paint";
import { type Painted, fit } from "./painting";

declare const self: {
  fonts: FontFaceSet;
  onmessage: (event: MessageEvent<{ id: number; look: Look }>) => void;
  postMessage: (painted: Painted, transfer: Transferable[]) => void;
};

/** A worker has fonts of its own. */
const fonts = Promise.all(
  [
    [regular, "400"],
    [bold, "700"],
  ].map(async ([url, weight]) => {
    const face = new FontFace("Atkinson Hyperlegible Next", `url(${url ?? ""})`, {
      weight: weight ?? "400",
    });
    self.fonts.add(await face.load());
  }),
).catch(() => undefined);

self.onmessage = async ({ data: { id, look } }) => {
  await fonts;
  const canvas = new OffscreenCanvas(1, 1);
  const pen = canvas.getContext("2d");
  if (!pen) {
    self.postMessage({ id, picture: null }, []);
    return;
  }
  fit(canvas, pen, look);
  const picture = canvas.transferToImageBitmap();
  self.postMessage({ id, picture }, [picture]);
};
