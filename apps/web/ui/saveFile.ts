/** Hands a file to the browser's downloads. */
export function saveFile(name: string, content: Blob): void {
  const address = URL.createObjectURL(content);
  const link = document.createElement('a');
  link.href = address;
  link.download = name.replace(/[^\p{L}\p{N}. _-]+/gu, '-');
  link.click();
  setTimeout(() => URL.revokeObjectURL(address), 10_000);
}

/** An SVG picture as a PNG of its own size. */
export async function svgToPng(svg: string): Promise<Blob> {
  const picture = new window.Image();
  picture.src = `data:image/svg+xml,${encodeURIComponent(svg)}`;
  await picture.decode();
  const canvas = document.createElement('canvas');
  canvas.width = picture.naturalWidth;
  canvas.height = picture.naturalHeight;
  canvas.getContext('2d')!.drawImage(picture, 0, 0);
  return new Promise((resolve, reject) =>
    canvas.toBlob(
      (blob) => (blob ? resolve(blob) : reject(new Error('The picture could not be drawn.'))),
      'image/png',
    ),
  );
}

/** Prints a page of its own, which is not that of the application. */
export function printPage(html: string): void {
  const frame = document.createElement('iframe');
  frame.setAttribute('aria-hidden', 'true');
  frame.style.cssText = 'position:fixed;width:0;height:0;border:0';
  frame.srcdoc = html;
  frame.onload = () => {
    frame.contentWindow?.print();
    setTimeout(() => frame.remove(), 60_000);
  };
  document.body.append(frame);
}
