/** The states of a send, in the order it goes through them; the last two are where it may end instead. */
export const SEND_STATES = ['draft', 'scheduled', 'going out', 'sent', 'recalled', 'failed'] as const;
export type SendState = (typeof SEND_STATES)[number];

/** How a delivery travels. A board post is not a delivery: it is for whoever comes to read. */
export const METHODS = ['inbox', 'mail'] as const;
export type Method = (typeof METHODS)[number];

/** What became of a delivery. `sending` is claimed by an engine until its lease ends. */
export const DELIVERY_STATES = ['waiting', 'sending', 'delivered', 'failed'] as const;
export type DeliveryState = (typeof DELIVERY_STATES)[number];
