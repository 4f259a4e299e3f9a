/** The rendered text of an announcement. The HTML is our own renderer's, which lets nothing else through. */
export function Matter({ html }: { html: string }) {
  return <div className="matter" dir="auto" dangerouslySetInnerHTML={{ __html: html }} />;
}

/** The one button of an announcement. */
export function MatterButton({ button }: { button: { label: string; url: string } | null }) {
  return button ? (
    <p className="mt-4">
      <a className="btn btn-secondary" href={button.url} rel="noopener noreferrer nofollow">
        {button.label}
      </a>
    </p>
  ) : null;
}
