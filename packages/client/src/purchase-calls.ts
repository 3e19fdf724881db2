import type { Body, Paths } from '@kleidon/api';
import type createFetch from 'openapi-fetch';
import type {
  BuyerRequest,
  PurchaseListRequest,
  PurchasesRequest,
  ShopEventsRequest,
} from './api.ts';
import { given } from './given.ts';
import { asking, at, CSV, of, type Fetched } from './parameters.ts';

/** The calls on who bought what, and on what shops told of it. */
export const purchaseCalls = (
  http: ReturnType<typeof createFetch<Paths, 'application/json'>>,
  asCsv: ReturnType<typeof createFetch<Paths, 'text/csv'>>,
  contentOf: <T>(call: Promise<Fetched<T>>) => Promise<T>,
) => ({
  /** The purchases of a buyer at a moment, with what made them so. */
  purchases: (site: string, query: PurchasesRequest) =>
    contentOf(http.GET('/api/sites/{site}/purchases', asking(site, given(query)))),
  /** All purchases at a moment, some of them at a time. */
  purchaseList: (site: string, query: PurchaseListRequest = {}) =>
    contentOf(http.GET('/api/sites/{site}/purchase-list', asking(site, given(query)))),
  /** The same as CSV (RFC 4180), all of them. */
  purchaseListCsv: (site: string, query: PurchaseListRequest = {}) =>
    contentOf(
      asCsv.GET('/api/sites/{site}/purchase-list', {
        ...asking(site, given(query)),
        parseAs: 'text',
      }),
    ),
  /** How many purchases of each product there are, were and will be. */
  purchaseSummary: (site: string, moment?: string) =>
    contentOf(http.GET('/api/sites/{site}/purchase-summary', asking(site, given({ at: moment })))),
  /** Takes over the purchases of a shop from CSV; dry, it only compares them with what is known. */
  importPurchases: (site: string, shop: string, text: string, isDry: boolean) =>
    contentOf(
      http.POST('/api/sites/{site}/purchase-list/import', {
        ...CSV,
        ...asking(site, { shop, dryRun: isDry ? ('yes' as const) : ('no' as const) }),
        body: text,
      }),
    ),
  grantAccess: (site: string, body: Body<'grantAccess'>) =>
    contentOf(http.POST('/api/sites/{site}/purchases', { ...of(site), body })),
  endGrant: (site: string, purchase: string, note?: string) =>
    contentOf(
      http.DELETE('/api/sites/{site}/purchases/{purchase}', {
        params: { path: { site, purchase }, query: given({ note }) },
      }),
    ),
  linkBuyer: (site: string, body: Body<'linkBuyer'>) =>
    contentOf(http.POST('/api/sites/{site}/buyers/links', { ...of(site), body })),
  unlinkBuyer: (site: string, body: Body<'unlinkBuyer'>) =>
    contentOf(http.DELETE('/api/sites/{site}/buyers/links', { ...of(site), body })),
  /** Erases a name of a buyer; returns how many events named them, and the other names of their purchases. */
  eraseBuyer: (site: string, query: BuyerRequest) =>
    contentOf(http.DELETE('/api/sites/{site}/buyers', asking(site, given(query)))),
  /** What shops told, and what could not be understood. */
  shopEvents: (site: string, query: ShopEventsRequest = {}) =>
    contentOf(http.GET('/api/sites/{site}/shop-events', asking(site, given(query)))),
  /** What an event would become. Nothing is kept. */
  tryShopEvent: (site: string, body: Body<'tryShopEvent'>) =>
    contentOf(http.POST('/api/sites/{site}/shop-events/trial', { params: at(site), body })),
  /** Reads again what was not understood: all, that of a shop, or one. */
  applyShopEvents: (site: string, body: Body<'applyShopEvents'> = {}) =>
    contentOf(http.POST('/api/sites/{site}/shop-events/applied', { params: at(site), body })),
  dropShopEvent: (site: string, shop: string, id: string) =>
    contentOf(http.DELETE('/api/sites/{site}/shop-events', asking(site, { shop, id }))),
});
