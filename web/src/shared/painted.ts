const SCALE = 2; // for screens with dense pixels

/** A vector drawing, by its data address, as a PNG of twice its size. */
export async function painted(address: string, width: number, height: number): Promise<HTMLCanvasElement> {
  const image = new Image();
  image.src = address;
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = SCALE * width;
  canvas.height = SCALE * height;
  canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
  return canvas;
}

/** The data address of a vector drawing. */
export function addressOf(svg: string): string {
  return `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
}
