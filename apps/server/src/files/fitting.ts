import type { KeptFile } from '@dart-loop/contract';
import { filetypeinfo } from 'magic-bytes.js';
import sharp from 'sharp';
import { Problem } from '../platform/problem';

const MB = 1_024 * 1_024;
/**
 * What goes on every channel that takes the kind at all: the smallest of their limits (WhatsApp takes
 * pictures of 5 MB, recordings and videos of 16 MB; Telegram takes documents of 20 MB by their address).
 */
export const MOST: Record<KeptFile['what'], number> = {
  image: 5 * MB,
  audio: 16 * MB,
  video: 16 * MB,
  file: 20 * MB,
};
/** The longest side of a picture, in pixels: none of the channels shows more. */
const MOST_PIXELS = 2_048;
const MOST_INPUT_PIXELS = 80_000_000;
const SHARP_S = 20;

/** What is taken, by what the bytes say they are. */
const KINDS: Record<string, { what: KeptFile['what']; type: string; ending: string }> = {
  jpg: { what: 'image', type: 'image/jpeg', ending: 'jpg' },
  png: { what: 'image', type: 'image/png', ending: 'png' },
  webp: { what: 'image', type: 'image/webp', ending: 'webp' },
  gif: { what: 'image', type: 'image/gif', ending: 'gif' },
  tif: { what: 'image', type: 'image/tiff', ending: 'tif' },
  avif: { what: 'image', type: 'image/avif', ending: 'avif' },
  mp4: { what: 'video', type: 'video/mp4', ending: 'mp4' },
  '3gp': { what: 'video', type: 'video/3gpp', ending: '3gp' },
  m4a: { what: 'audio', type: 'audio/mp4', ending: 'm4a' },
  mp3: { what: 'audio', type: 'audio/mpeg', ending: 'mp3' },
  ogg: { what: 'audio', type: 'audio/ogg', ending: 'ogg' },
  amr: { what: 'audio', type: 'audio/amr', ending: 'amr' },
  pdf: { what: 'file', type: 'application/pdf', ending: 'pdf' },
  docx: {
    what: 'file',
    type: 'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
    ending: 'docx',
  },
  xlsx: {
    what: 'file',
    type: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
    ending: 'xlsx',
  },
  pptx: {
    what: 'file',
    type: 'application/vnd.openxmlformats-officedocument.presentationml.presentation',
    ending: 'pptx',
  },
};
/** The library takes all of these for one; the names within the archive tell them apart. */
const OFFICE = [
  ['word/document.xml', 'docx'],
  ['xl/workbook.xml', 'xlsx'],
  ['ppt/presentation.xml', 'pptx'],
] as const;
const BEGINNING = 512;

/** The kind of a file, a key of `KINDS` where it is taken; null where nobody knows. */
function kindOf(bytes: Buffer): string | null {
  const beginning = bytes.subarray(0, BEGINNING);
  // The brand of an MP4 says whether it is a recording or a video.
  if (beginning.toString('latin1', 4, 8) === 'ftyp') {
    const brand = beginning.toString('latin1', 8, 12);
    if (/^M4[AB] /.test(brand)) return 'm4a';
    if (/^3g/.test(brand)) return '3gp';
    if (/^avi[fs]/.test(brand)) return 'avif';
    return /^(isom|iso\d|mp4\d|M4V |avc1|MSNV|dash)/.test(brand) ? 'mp4' : brand.trim();
  }
  if (beginning.toString('latin1', 0, 4) === 'OggS') return 'ogg';
  if (beginning.toString('latin1', 0, 5) === '#!AMR') return 'amr';
  const [found] = filetypeinfo(beginning);
  if (found?.typename !== 'zip') return found?.typename ?? null;
  return OFFICE.find(([part]) => bytes.includes(part))?.[1] ?? 'zip';
}

export interface Fitted {
  what: KeptFile['what'];
  type: string;
  ending: string;
  bytes: Buffer;
  width: number | null;
  height: number | null;
}

const refused = (words: string) => new Problem(422, 'The file was not taken', words);

/**
 * A file as all channels take it. What it is, is told by its content and not by its name; a picture is turned
 * upright, made small enough, and loses what its camera wrote into it (where it was taken, among others).
 */
export async function fitted(bytes: Buffer): Promise<Fitted> {
  if (bytes.length === 0) throw refused('The file is empty.');
  const found = kindOf(bytes);
  const kind = found === null ? undefined : KINDS[found];
  if (!kind)
    throw refused(
      `${found ? `A file of the kind ${found.toUpperCase()}` : 'What the file holds'} cannot be sent on the channels. Pictures (JPEG, PNG, WebP, GIF), videos (MP4), recordings (MP3, OGG, M4A) and documents (PDF, Word, Excel, PowerPoint) can.`,
    );
  if (kind.what === 'image') return picture(bytes);
  if (bytes.length > MOST[kind.what])
    throw refused(
      `It has ${(bytes.length / MB).toFixed(1)} MB, and ${KIND_WORDS[kind.what]} may have ${MOST[kind.what] / MB} MB on every channel. Make it smaller.`,
    );
  return { ...kind, bytes, width: null, height: null };
}

/** What a file is called in a sentence. */
export const KIND_WORDS: Record<KeptFile['what'], string> = {
  image: 'a picture',
  audio: 'a recording',
  video: 'a video',
  file: 'a document',
};

async function picture(bytes: Buffer): Promise<Fitted> {
  try {
    const read = sharp(bytes, { limitInputPixels: MOST_INPUT_PIXELS, failOn: 'error' })
      .timeout({ seconds: SHARP_S })
      .rotate()
      .resize({ width: MOST_PIXELS, height: MOST_PIXELS, fit: 'inside', withoutEnlargement: true });
    // What can be seen through stays a PNG, unless that is too large.
    const { hasAlpha } = await sharp(bytes, { limitInputPixels: MOST_INPUT_PIXELS }).metadata();
    if (hasAlpha) {
      const png = await read.clone().png({ compressionLevel: 9 }).toBuffer({ resolveWithObject: true });
      if (png.data.length <= MOST.image) return made(png, 'image/png', 'png');
    }
    for (const quality of [86, 70, 50]) {
      const jpeg = await read
        .clone()
        .flatten({ background: '#ffffff' })
        .jpeg({ quality, mozjpeg: true })
        .toBuffer({ resolveWithObject: true });
      if (jpeg.data.length <= MOST.image) return made(jpeg, 'image/jpeg', 'jpg');
    }
  } catch (error) {
    const words = (error as Error).message;
    throw refused(
      /pixel limit/i.test(words)
        ? 'The picture has more than 80 million pixels. Make it smaller.'
        : 'The picture cannot be read: it is cut off or damaged. Save it again as JPEG or PNG.',
    );
  }
  throw refused('The picture cannot be made smaller than 5 MB.');
}

const made = (
  { data, info }: { data: Buffer; info: { width: number; height: number } },
  type: string,
  ending: string,
): Fitted => ({ what: 'image', type, ending, bytes: data, width: info.width, height: info.height });
