/** What gateways can be made from, as one person may use it. */
export interface GatewayChoices {
  boards: { id: number; name: string; gateways: boolean }[];
  /** None for whoever only moderates boards. */
  groups: { id: number; name: string }[];
  senders: { id: number; name: string }[];
  /** Whether the organisation takes mail in. */
  takesMail: boolean;
}
