/** What is shown where signing in elsewhere came to nothing, and why. */
export function NotSignedIn({ why }: { why: string }) {
  return (
    <div className="max-w-xl bg-base-100 p-6 sm:p-8">
      <h1 className="mb-3">You are not signed in</h1>
      <p className="mb-6" dir="auto">
        {why}
      </p>
      <a className="btn btn-primary" href="/sign-in">
        Back to signing in
      </a>
    </div>
  );
}
