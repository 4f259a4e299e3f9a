import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { cruise, type ICruiseResult } from 'dependency-cruiser';
import { ROOT } from './house/bringUp.ts';

/** The rooms of the source, with where they stand in the drawing and what they are. */
const ROOMS = [
  {
    name: 'pages',
    at: [40, 40],
    path: /^src\/(pages|middleware)/,
    says: 'read input, ask, answer',
  },
  { name: 'views', at: [400, 40], path: /^src\/views\//, says: 'islands, a folder a screen' },
  { name: 'ui', at: [760, 40], path: /^src\/ui\//, says: 'what several screens share' },
  { name: 'http', at: [40, 220], path: /^src\/server\/http\//, says: 'sessions, problems, live updates' },
  { name: 'engine', at: [400, 220], path: /^src\/server\/engine\//, says: 'claims, expands, hands over' },
  { name: 'events', at: [760, 220], path: /^src\/server\/events\//, says: 'the log and who follows it' },
  { name: 'services', at: [220, 380], path: /^src\/server\//, says: 'a folder a noun: store, service' },
  { name: 'database', at: [220, 540], path: /^src\/server\/database\//, says: 'connection and migrations' },
  { name: 'core', at: [600, 540], path: /^src\/core\//, says: 'computes, touches nothing else' },
] as const;
type Room = (typeof ROOMS)[number];
const WIDTH = 260;
const HEIGHT = 84;

const roomOf = (path: string): Room | undefined =>
  ROOMS.filter((room) => room.path.test(path)).sort(
    (one, other) => other.path.source.length - one.path.source.length,
  )[0];

function linesUnder(folder: string): Map<string, number> {
  const found = new Map<string, number>();
  for (const name of readdirSync(folder)) {
    const path = join(folder, name);
    if (statSync(path).isDirectory()) for (const [file, lines] of linesUnder(path)) found.set(file, lines);
    else if (/\.(ts|tsx|astro)$/.test(name)) found.set(path, readFileSync(path, 'utf8').split('\n').length);
  }
  return found;
}

const middle = (room: Room): [number, number] => [room.at[0] + WIDTH / 2, room.at[1] + HEIGHT / 2];

/** Where the line between two rooms leaves the first one's wall. */
function edge(from: Room, to: Room): [number, number] {
  const [x, y] = middle(from);
  const [toX, toY] = middle(to);
  const dx = toX - x;
  const dy = toY - y;
  const part = Math.min(
    dx === 0 ? Infinity : WIDTH / 2 / Math.abs(dx),
    dy === 0 ? Infinity : HEIGHT / 2 / Math.abs(dy),
  );
  return [x + dx * part, y + dy * part];
}

/** Draws what imports what in `src`, room by room, into docs/architecture.svg: run by `npm run drawing`. */
const { output } = await cruise(['src'], {
  exclude: { path: 'node_modules' },
  doNotFollow: { path: 'node_modules' },
});
const { modules } = output as ICruiseResult;
const imports = new Map<string, number>();
for (const module of modules) {
  const from = roomOf(module.source);
  for (const { resolved } of module.dependencies) {
    const to = roomOf(resolved);
    if (from && to && from !== to)
      imports.set(`${from.name} ${to.name}`, (imports.get(`${from.name} ${to.name}`) ?? 0) + 1);
  }
}
const size = new Map<string, { files: number; lines: number }>();
for (const [path, lines] of linesUnder(join(ROOT, 'src'))) {
  const room = roomOf(path.slice(ROOT.length + 1));
  if (!room) continue;
  const { files, lines: before } = size.get(room.name) ?? { files: 0, lines: 0 };
  size.set(room.name, { files: files + 1, lines: before + lines });
}
const arrows = [...imports].map(([pair, n]) => {
  const [from, to] = pair.split(' ').map((name) => ROOMS.find((room) => room.name === name));
  if (!from || !to) return '';
  const [x1, y1] = edge(from, to);
  const [x2, y2] = edge(to, from);
  const wide = Math.min(6, 1 + Math.log2(n) / 2).toFixed(1);
  return `<line x1="${x1.toFixed(0)}" y1="${y1.toFixed(0)}" x2="${x2.toFixed(0)}" y2="${y2.toFixed(0)}" stroke-width="${wide}"><title>${from.name} imports ${to.name} ${n} times</title></line>`;
});
const boxes = ROOMS.map((room) => {
  const { files = 0, lines = 0 } = size.get(room.name) ?? {};
  const [x, y] = room.at;
  return `<g transform="translate(${x} ${y})"><rect width="${WIDTH}" height="${HEIGHT}" rx="4"/>
<text x="14" y="28" class="name">${room.name}</text><text x="14" y="50">${room.says}</text>
<text x="14" y="70" class="small">${files} files, ${lines.toLocaleString('en-GB')} lines</text></g>`;
});
writeFileSync(
  join(ROOT, 'docs', 'architecture.svg'),
  `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1060 664" role="img" aria-label="What imports what in the source, room by room">
<defs><marker id="end" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="10" markerHeight="10" markerUnits="userSpaceOnUse" orient="auto"><path d="M0 0 8 4 0 8Z" fill="#8a4b12"/></marker></defs>
<style>svg{background:#fffefb;font-family:sans-serif}rect{fill:#f7f4ec;stroke:#1d2b2a}text{font-size:14px;fill:#1d2b2a}.name{font-size:19px;font-weight:bold}.small{font-size:12px;fill:#51605f}line{stroke:#8a4b12;stroke-opacity:.55;marker-end:url(#end)}</style>
${arrows.join('\n')}
${boxes.join('\n')}
</svg>
`,
);
