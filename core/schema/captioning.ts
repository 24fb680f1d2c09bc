/** What Thaw and a captioning service say to each other (docs/formats.md, “A captioning service”). */
import { Type, type Static } from '@sinclair/typebox'
import { LanguageTag } from './captions'
import { closed, Id, Instant, Line, Prose } from './parts'

/** Who orders, and what a minute costs. */
export const ServiceAccount = Type.Object(
  {
    name: Line(200),
    /** In the smallest unit of the currency. */
    pricePerMinute: Type.Integer({ minimum: 0, maximum: 1_000_000 }),
    /** ISO 4217. */
    currency: Type.String({ pattern: '^[A-Z]{3}$' }),
  },
  closed,
)
export type ServiceAccount = Static<typeof ServiceAccount>

/** What is ordered. Its name is chosen by who orders: the same order sent twice is one. */
export const CaptionOrder = Type.Object(
  {
    title: Line(300),
    language: LanguageTag,
    /** By when it is to be there. */
    dueAt: Instant,
    notes: Prose(4000),
    /** Words of the subject, as they are written, and what is often heard in their stead. */
    words: Type.Array(Type.Object({ text: Line(100), heard: Type.Array(Line(100), { maxItems: 20 }) }, closed), {
      maxItems: 5000,
    }),
  },
  closed,
)
export type CaptionOrder = Static<typeof CaptionOrder>

/** sound: waits for the sound; work: is being captioned; ready; cancelled; refused: by the service, with a reason. */
export const OrderState = Type.Union([
  Type.Literal('sound'),
  Type.Literal('work'),
  Type.Literal('ready'),
  Type.Literal('cancelled'),
  Type.Literal('refused'),
])
export type OrderState = Static<typeof OrderState>

/** Where an order stands. */
export const OrderStanding = Type.Object(
  {
    id: Id,
    state: OrderState,
    /** Of the service, for a person; may be empty. */
    says: Type.String({ maxLength: 1000 }),
    dueAt: Instant,
    /** In the smallest unit of the currency; 0 until the sound is there. */
    price: Type.Integer({ minimum: 0 }),
    currency: Type.String({ pattern: '^[A-Z]{3}$' }),
    /** How often captions came: each can be fetched by its number, from 1. */
    deliveries: Type.Integer({ minimum: 0, maximum: 1000 }),
  },
  closed,
)
export type OrderStanding = Static<typeof OrderStanding>
