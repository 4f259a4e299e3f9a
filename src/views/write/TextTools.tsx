import type { Content } from '../../core/content/announcement.ts';
import { announcementFile } from '../../core/content/file.ts';
import { download } from '../../ui/download.ts';

/** What can be done with a text besides sending it. */
export function TextTools({
  isTemplate,
  content,
  onTest,
  onCopy,
  onTemplate,
  onDiscard,
}: {
  isTemplate: boolean;
  content: Content;
  onTest: () => void;
  onCopy: () => void;
  onTemplate: () => void;
  /** Null where it cannot be thrown away. */
  onDiscard: (() => void) | null;
}) {
  return (
    <div className="flex flex-wrap gap-2">
      <button type="button" className="btn btn-outline btn-sm" onClick={onTest}>
        Send a test to me
      </button>
      <button type="button" className="btn btn-outline btn-sm" onClick={onCopy}>
        {isTemplate ? 'Start a draft from it' : 'Copy'}
      </button>
      {isTemplate ? null : (
        <button type="button" className="btn btn-outline btn-sm" onClick={onTemplate}>
          Keep as a template
        </button>
      )}
      <button
        type="button"
        className="btn btn-outline btn-sm"
        onClick={() => download('announcement.md', announcementFile(content), 'text/markdown')}
      >
        Take it as Markdown
      </button>
      {onDiscard ? (
        <button type="button" className="btn btn-ghost btn-sm" onClick={onDiscard}>
          Throw this {isTemplate ? 'template' : 'draft'} away
        </button>
      ) : null}
    </div>
  );
}
