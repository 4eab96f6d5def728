import { create } from 'qrcode';
import { inHtml } from './html';

const QUIET_ZONE = 4;

/**
 * A QR code as an SVG picture with a caption under it; error correction M, four modules of quiet zone, as
 * ISO/IEC 18004 asks.
 */
export function qrSvg(text: string, caption: string): string {
  const { modules } = create(text, { errorCorrectionLevel: 'M' });
  const size = modules.size + 2 * QUIET_ZONE;
  const path: string[] = [];
  for (let row = 0; row < modules.size; row++)
    for (let column = 0; column < modules.size; column++)
      if (modules.get(row, column)) path.push(`M${column + QUIET_ZONE} ${row + QUIET_ZONE}h1v1h-1z`);
  const height = size + 4;
  // The caption shrinks so that a long name stays within the picture.
  const fontSize = Math.min(3, (size - 2) / (Math.max(1, [...caption].length) * 0.6));
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${size} ${height}" width="${size * 8}" height="${height * 8}" shape-rendering="crispEdges" role="img" aria-label="QR code">`,
    `<rect width="${size}" height="${height}" fill="#ffffff"/>`,
    `<path d="${path.join('')}" fill="#1E2330"/>`,
    `<text x="${size / 2}" y="${size + 1}" font-size="${fontSize.toFixed(2)}" font-family="Atkinson Hyperlegible, sans-serif" text-anchor="middle" fill="#1E2330">${inHtml(caption)}</text>`,
    '</svg>',
  ].join('');
}
