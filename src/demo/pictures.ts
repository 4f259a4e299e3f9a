import { randomBytes } from 'node:crypto';
import sharp from 'sharp';
import type { Image, Placement } from '../core/content/section.ts';
import type { Database } from '../server/database/connection.ts';
import { insertUpload } from '../server/uploads/store.ts';
import { seeded } from './random.ts';

/** Pictures drawn for the demo: hills with seeds in the wind, a row of drawers, a slope of poppies. */
const DRAWN = {
  hills: (random: () => number): string => `
    <rect width="1280" height="720" fill="#E9DFC8"/>
    <path d="M0 460 Q320 300 640 430 T1280 380 V720 H0Z" fill="#B7C2A0"/>
    <path d="M0 560 Q360 430 720 540 T1280 500 V720 H0Z" fill="#6F8F7A"/>
    <path d="M0 650 Q400 560 800 640 T1280 610 V720 H0Z" fill="#1C6B60"/>
    ${Array.from({ length: 26 }, () => {
      const x = Math.round(random() * 1280);
      const y = Math.round(60 + random() * 380);
      return `<g stroke="#8A4B12" stroke-width="3" fill="none"><path d="M${x} ${y} l26 34"/><path d="M${x} ${y} l-18 -10 M${x} ${y} l-4 -22 M${x} ${y} l14 -18"/></g><ellipse cx="${x + 28}" cy="${y + 38}" rx="5" ry="9" fill="#8A4B12"/>`;
    }).join('')}`,
  drawers: (random: () => number): string => `
    <rect width="1280" height="720" fill="#34506B"/>
    ${Array.from({ length: 40 }, (_, i) => {
      const x = 40 + (i % 8) * 152;
      const y = 36 + Math.floor(i / 8) * 134;
      const shade = ['#D8D0C0', '#CFC3A8', '#E4DCCB'][Math.floor(random() * 3)] ?? '#D8D0C0';
      return `<rect x="${x}" y="${y}" width="136" height="116" rx="4" fill="${shade}"/><rect x="${x + 38}" y="${y + 22}" width="60" height="24" fill="#FFFEFA"/><circle cx="${x + 68}" cy="${y + 80}" r="9" fill="#8A4B12"/>`;
    }).join('')}`,
  poppies: (random: () => number): string => `
    <rect width="1280" height="720" fill="#DCE6EA"/>
    <path d="M0 320 L520 130 L900 330 L1280 180 V720 H0Z" fill="#9DB0B8"/>
    <path d="M0 520 Q640 380 1280 500 V720 H0Z" fill="#7C9A6B"/>
    ${Array.from({ length: 34 }, () => {
      const x = Math.round(random() * 1280);
      const y = Math.round(430 + random() * 250);
      const r = Math.round(14 + random() * 14);
      return `<path d="M${x} ${y} v70" stroke="#3F5B3A" stroke-width="4"/><circle cx="${x}" cy="${y}" r="${r}" fill="#4F79B7"/><circle cx="${x}" cy="${y}" r="${Math.round(r / 3)}" fill="#F0D27A"/>`;
    }).join('')}`,
} as const;

export type Drawing = keyof typeof DRAWN;

/** Draws a picture and keeps it as an upload; gives it as it is placed in a section. */
export async function layPicture(
  db: Database,
  drawing: Drawing,
  by: number,
  alt: string,
  placement: Placement,
): Promise<Image> {
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="1280" height="720" viewBox="0 0 1280 720">${DRAWN[drawing](seeded(drawing.length * 977))}</svg>`;
  const bytes = await sharp(Buffer.from(svg)).webp({ quality: 86 }).toBuffer();
  const key = randomBytes(16).toString('base64url');
  await insertUpload(
    db,
    { key, name: `${drawing}.webp`, mime: 'image/webp', width: 1280, height: 720, bytes },
    by,
  );
  return { key, alt, placement, focus: { x: 50, y: 60 }, width: 1280, height: 720 };
}
