import type { ForMe } from '../../core/inbox/inbox.ts';
import { Moment } from '../../ui/Moment.tsx';

/** What the reader was told of and has not read. */
export function Told({
  page,
  zone,
  nowMs,
  onRead,
}: {
  page: ForMe;
  zone: string;
  nowMs: number;
  onRead: () => void;
}) {
  if (page.notices.length === 0) return null;
  return (
    <section aria-labelledby="told" className="mb-8 border-l-4 border-info bg-base-100 px-4 py-3">
      <h2 id="told" className="mb-1">
        Told to you
      </h2>
      <ul>
        {page.notices.map((notice) => (
          <li key={notice.id} className="border-b border-base-300 py-2 last:border-0">
            <a className="link-quiet font-semibold" href={notice.path} dir="auto">
              {notice.title}
            </a>
            <p className="text-quiet" dir="auto">
              {notice.text}
            </p>
            <p className="text-sm text-quiet">
              <Moment at={notice.atMs} zone={zone} nowMs={nowMs} />. {notice.why}
            </p>
          </li>
        ))}
      </ul>
      <p className="mt-1 flex flex-wrap gap-4 text-sm">
        <a className="link-quiet py-2" href="/for-me/notices">
          {page.unreadNotices > page.notices.length
            ? `All ${page.unreadNotices >= 100 ? '100 or more' : page.unreadNotices}, and earlier ones`
            : 'Earlier ones'}
        </a>
        <button type="button" className="link-quiet py-2" onClick={onRead}>
          Mark these as read
        </button>
        <a className="link-quiet py-2" href="/settings#notices">
          What I am told of
        </a>
      </p>
    </section>
  );
}
