/** The header a secret is sent in, and the secret, which is kept sealed and never shown again. */
export function SecretFields({
  header,
  secret,
  kept,
  onHeader,
  onSecret,
}: {
  header: string;
  secret: string;
  /** Whether one is kept already. */
  kept: boolean;
  onHeader: (header: string) => void;
  onSecret: (secret: string) => void;
}) {
  return (
    <div className="flex flex-wrap gap-2">
      <label className="flex flex-col gap-1">
        Header of its secret, if any
        <input
          className="input w-44"
          maxLength={60}
          value={header}
          onChange={(event) => onHeader(event.target.value)}
        />
      </label>
      <label className="flex grow flex-col gap-1">
        Secret{kept ? ' (one is kept; write another to change it)' : ''}
        <input
          type="password"
          autoComplete="off"
          className="input w-full"
          maxLength={500}
          value={secret}
          onChange={(event) => onSecret(event.target.value)}
        />
      </label>
    </div>
  );
}
