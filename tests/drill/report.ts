import { percentile } from '../../src/core/delivery/lateness.ts';
import type { Fault } from './faults.ts';
import type { Kept } from './kept.ts';
import { isRight, type Account } from './round.ts';

const n = (of: number): string => of.toLocaleString('en-GB');
const sum = (of: readonly number[]): number => of.reduce((all, each) => all + each, 0);
const seconds = (ms: number): string => (ms / 1000).toFixed(1);

function line(fault: Fault, of: readonly Account[]): string {
  const settled = of.flatMap(({ settledAfterMs }) => settledAfterMs ?? []);
  return `| ${[
    fault.words,
    `${of.filter(isRight).length} of ${of.length}`,
    `${n(sum(of.map(({ inbox }) => inbox)))} of ${n(sum(of.map(({ people }) => people)))}`,
    `${n(sum(of.map(({ mailed }) => mailed)))} of ${n(sum(of.map(({ withMail }) => withMail)))}`,
    `${n(sum(of.map(({ twice }) => twice)))} (at most ${n(Math.max(0, ...of.map(({ twice }) => twice)))} in a round), ${n(sum(of.map(({ unexplained }) => unexplained)))}`,
    `${n(sum(of.map(({ confirmed }) => confirmed)))}, ${n(sum(of.map(({ lost }) => lost)))}`,
    n(sum(of.map(({ refused }) => refused))),
    settled.length === 0
      ? 'never'
      : `${seconds(percentile(settled, 0.5) ?? 0)} / ${seconds(Math.max(...settled))}${settled.length < of.length ? `, ${of.length - settled.length} not` : ''}`,
  ].join(' | ')} |`;
}

/**
 * The account of a drill, as Markdown: every round that was begun is in it.
 *
 * @param disks whether this account may make disks, without which none is full
 */
export function report(kept: Kept, faults: readonly Fault[], disks: boolean): string {
  const { ended: all, size: given, unended } = kept;
  const wrong = all.filter((each) => !isRight(each));
  return `# The drill

\`npm run drill\` starts three database nodes with Galera, HAProxy before them, two webs, three engines and a mail server on loopback, and
lets something go wrong in the middle of one send after another. It writes this page. \`npm run drill -- --rounds 2 --faults engine,node\`
runs less of it, \`--people\`, \`--answers\` and \`--seed\` say how large it is, and what is drawn. It takes hours: \`--go-on\` adds rounds
to those there are, and [drill.jsonl](drill.jsonl) has every one that was ever begun.

In each round a send goes to ${n(given.people)} people, nine of ten with mail, while ${n(given.answers)} of them acknowledge it, each trying again where a web does not
confirm it. At an instant drawn between 0.5 and 6.5 s after it is due something goes wrong; then it is waited until nothing is left to do,
and everything is counted: in the inboxes, at the mail server (by its Message-IDs), and on the roll.

${kept.days.join(' and ')}; ${given.cores} cores for everything together; seed ${given.seed}; ${n(all.length)} rounds, ${n(all.length - wrong.length)} of them right.${disks ? '' : ' The full disk was left out: this account may not make disks.'}${
    unended.length === 0
      ? ''
      : ` The drill itself was stopped in the middle of ${unended.map(({ fault, round }) => `${fault}, round ${round}`).join('; ')}: what came of these was not counted.`
  }

| what goes wrong | rounds that were right | in the inbox, once each | mailed | mails that came twice; of these not on the wire then, or under another Message-ID | answers confirmed; of these lost | answers no web took | all done, s after it was due: median / last |
| --- | --- | --- | --- | --- | --- | --- | --- |
${faults
  .map((fault) => [fault, all.filter((each) => each.fault === fault.name)] as const)
  .filter(([, of]) => of.length > 0)
  .map(([fault, of]) => line(fault, of))
  .join('\n')}

A mail that was on the wire when its engine was killed may come twice, always with the same Message-ID, so that a mailbox that looks at that
shows it once: what the mail server took within a second of that. Whatever else is gone, an engine that lives remembers what was taken until
it is recorded.
${
  wrong.length === 0
    ? ''
    : `
## Rounds that were not right

${wrong.map((each) => `- ${each.fault}, round ${each.round} (${each.what}, ${seconds(each.struckAfterMs)} s after it was due): ${JSON.stringify(each)}`).join('\n')}
`
}`;
}
