/** What can happen to a purchase, or to whoever bought. */
export const SHOP_EVENT_TYPES = [
  'purchase.made',
  'purchase.renewed',
  'purchase.cancelled',
  'purchase.paused',
  'purchase.resumed',
  'purchase.refunded',
  'purchase.charged-back',
  'purchase.changed',
  'buyer.moved',
  'buyer.linked',
  'buyer.unlinked',
  'buyer.erased',
] as const;
export type ShopEventType = (typeof SHOP_EVENT_TYPES)[number];

/** Something that happened in a shop, as it told it. */
export interface ShopEvent {
  /** By which it is known when it comes again. */
  readonly id: string;
  readonly type: ShopEventType;
  /** When it happened, in milliseconds since 1970. */
  readonly at: number;
  /** The purchase that it is about, as the shop calls it; empty for what is about a buyer. */
  readonly purchase: string;
  /** What was bought; null where that stays as it is. */
  readonly product: string | null;
  /** The period that was paid for; null where it is open, or stays as it is. */
  readonly from: number | null;
  readonly until: number | null;
  /** Only a part of the price was given back. */
  readonly isPartly: boolean;
  readonly email: string | null;
  /** Who bought, as the website knows them; null where there was no account yet. */
  readonly visitor: string | null;
  /** For a buyer who moved: the address before. For one who is linked: their other address. */
  readonly formerEmail: string | null;
}

/** What an event does not say. */
export const UNSAID = {
  purchase: '',
  product: null,
  from: null,
  until: null,
  isPartly: false,
  email: null,
  visitor: null,
  formerEmail: null,
} as const satisfies Partial<ShopEvent>;
