import type { ThanksListed } from '../core/thanks/ribbon.ts';
import { shortDate } from '../core/timing/words.ts';
import { RibbonBadge } from './RibbonBadge.tsx';

/** Thanks in the ledger, each with its ribbon. */
export function ThanksList({ thanks, zone }: { thanks: readonly ThanksListed[]; zone: string }) {
  return (
    <ul className="ledger">
      {thanks.map((given) => (
        <li key={given.id}>
          <time className="margin" dateTime={new Date(given.atMs).toISOString()}>
            {shortDate(given.atMs, zone)}
          </time>
          <div className="flex items-center gap-4">
            <RibbonBadge ribbon={given.ribbon} size={40} />
            <div>
              <p dir="auto">
                {given.postPath === null ? (
                  given.sentence
                ) : (
                  <a className="link-quiet" href={given.postPath}>
                    {given.sentence}
                  </a>
                )}
              </p>
              <p className="text-sm text-quiet">
                To{' '}
                {given.to.map((person, i) => (
                  <span key={person.id}>
                    {i === 0 ? '' : i === given.to.length - 1 ? ' and ' : ', '}
                    <a className="link-quiet" href={`/person/${person.id}`} dir="auto">
                      {person.name}
                    </a>
                  </span>
                ))}
                , from {given.from}
              </p>
            </div>
          </div>
          <div className="state text-sm text-quiet">{given.ribbon.name}</div>
        </li>
      ))}
    </ul>
  );
}
