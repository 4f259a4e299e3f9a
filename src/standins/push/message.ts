/** A message as a device read it. */
export interface PushedMessage {
  device: string;
  label: string;
  atMs: number;
  text: string;
  ttl: string;
  urgency: string;
  from: string;
}
