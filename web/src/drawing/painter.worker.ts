import bold from "@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-700-normal.woff2?url";
import regular from "@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff2?url";
import type { Schemas } from "../api/client";
import type { Look } from "./paint";
import { type Order, type Painted, fit, glimpseOf } from "./painting";

declare const self: {
  fonts: FontFaceSet;
  onmessage: (event: MessageEvent<Order>) => void;
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

self.onmessage = async ({ data: order }) => {
  await fonts;
  const made =
    "look" in order ? { looks: [order.look], glimpse: undefined } : await glimpsed(order);
  const pictures = (made?.looks ?? []).flatMap(pictureOf);
  self.postMessage({ id: order.id, pictures, glimpse: made?.glimpse }, pictures);
};

function pictureOf(look: Look): ImageBitmap[] {
  const canvas = new OffscreenCanvas(1, 1);
  const pen = canvas.getContext("2d");
  if (!pen) return [];
  fit(canvas, pen, look);
  return [canvas.transferToImageBitmap()];
}

/** Has a case planned; a whole plan is never read on the page while a grip is held. */
async function glimpsed({ path, headers, body, looks }: Exclude<Order, { look: Look }>) {
  try {
    const answer = await fetch(path, { method: "POST", headers, body });
    return answer.ok ? glimpseOf((await answer.json()) as Schemas["PreviewOut"], looks) : null;
  } catch {
    return null;
  }
}
