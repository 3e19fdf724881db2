import * as yup from 'yup';
import { noOthers, text } from './fields.ts';
import { secretsOf, webhookSecret } from './webhook-secret.ts';

const NAME = /^[a-z0-9](?:[a-z0-9-]{0,62})$/;

/** A shop in the settings: whose events are taken, and for which site. */
export const shopSchema = yup
  .object({
    name: text()
      .required('"name" of a shop is missing: its events come to /api/shops/NAME/events.')
      .matches(NAME, {
        message: '"name" of a shop has small letters, digits and hyphens, 63 at most.',
      }),
    site: text().required('"site" of a shop is missing: the name of a site of this service.'),
    secret: webhookSecret('a shop', 'with it, a shop signs what it tells'),
  })
  .noUnknown(noOthers);

/** Whose events are taken, and the secrets of which one must have signed each. */
export interface ShopSettings {
  readonly name: string;
  readonly site: string;
  readonly secrets: readonly string[];
}

/** A shop as it is used, from what the settings say. */
export const shopOf = ({ name, site, secret }: yup.InferType<typeof shopSchema>): ShopSettings => ({
  name,
  site,
  secrets: secretsOf(secret),
});
