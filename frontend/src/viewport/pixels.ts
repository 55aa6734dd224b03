/** A canvas as a PNG without holding up the page: its pixels are fetched once the graphics card is done. */

const LOOK_AGAIN_MS = 4;

/** What was just drawn on it, which it has to preserve. */
export async function pngOf(gl: WebGL2RenderingContext): Promise<Blob> {
  const { drawingBufferWidth: width, drawingBufferHeight: height } = gl;
  const bytes = 4 * width * height;
  const buffer = gl.createBuffer();
  gl.bindBuffer(gl.PIXEL_PACK_BUFFER, buffer);
  gl.bufferData(gl.PIXEL_PACK_BUFFER, bytes, gl.STREAM_READ);
  gl.readPixels(0, 0, width, height, gl.RGBA, gl.UNSIGNED_BYTE, 0);
  gl.bindBuffer(gl.PIXEL_PACK_BUFFER, null);
  await finished(gl);
  const pixels = new Uint8ClampedArray(bytes);
  gl.bindBuffer(gl.PIXEL_PACK_BUFFER, buffer);
  gl.getBufferSubData(gl.PIXEL_PACK_BUFFER, 0, pixels);
  gl.bindBuffer(gl.PIXEL_PACK_BUFFER, null);
  gl.deleteBuffer(buffer);
  const paper = new OffscreenCanvas(width, height);
  paper.getContext('2d')?.putImageData(upright(pixels, width, height), 0, 0);
  return paper.convertToBlob({ type: 'image/png' });
}

let view: WebGL2RenderingContext | null = null;

/** Which canvas is the view's. */
export const drawsTheView = (gl: WebGL2RenderingContext) => {
  view = gl;
};

/** Until the view is drawn: a canvas that is begun meanwhile holds up the page until then. */
export const viewDrawn = async () => {
  if (view) await finished(view);
};

/** Until the graphics card has drawn all that it was told to. */
export async function finished(gl: WebGL2RenderingContext) {
  const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
  if (!fence) return;
  gl.flush();
  while (gl.clientWaitSync(fence, 0, 0) === gl.TIMEOUT_EXPIRED)
    await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS));
  gl.deleteSync(fence);
}

/** From the top down, and with colours that are not multiplied by how opaque they are. */
export function upright(pixels: Uint8ClampedArray, width: number, height: number): ImageData {
  const found = new ImageData(width, height);
  for (let y = 0; y < height; y++)
    found.data.set(pixels.subarray(4 * width * (height - 1 - y), 4 * width * (height - y)), 4 * width * y);
  for (let i = 0; i < found.data.length; i += 4) {
    const opaque = (found.data[i + 3] as number) / 255;
    if (opaque === 0 || opaque === 1) continue;
    for (let c = i; c < i + 3; c++) found.data[c] = (found.data[c] as number) / opaque;
  }
  return found;
}
