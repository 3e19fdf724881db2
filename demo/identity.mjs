/**
 * A test identity provider: OpenID Connect on loopback, with the visitors of a site file as
 * its accounts, and whoever is new by their e-mail address. It takes everyone at their word, and is for trying things
 * out only.
 *
 *   node demo/identity.mjs --port 4792 --site demo/merrow-point.site.yaml --back http://127.0.0.1:4791
 */
import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { parseArgs } from 'node:util';
import { parse } from 'yaml';

/** The library warns of Node.js 20 when it is loaded; what is used of it here runs there, and the tests hold it to that. */
const { warn } = console;
console.warn = (...words) => {
  if (!String(words[0]).includes('Unsupported runtime')) warn(...words);
};
const { default: Provider } = await import('oidc-provider');
console.warn = warn;

const { values: options } = parseArgs({
  options: {
    port: { type: 'string', default: '4792' },
    site: { type: 'string', default: 'demo/merrow-point.site.yaml' },
    /** Where the gateway is: nobody is sent anywhere else. */
    back: { type: 'string', default: 'http://127.0.0.1:4791' },
  },
});

const { visitors } = parse(readFileSync(options.site, 'utf8'));
const accounts = new Map(
  Object.entries(visitors)
    .filter(([, visitor]) => visitor.guest !== 'yes')
    .map(([name, visitor]) => [name, claimsOf(name, visitor)]),
);

function claimsOf(name, { title, roles = [], groups = [], bought = [], attributes = {} }) {
  return {
    sub: name,
    name: title ?? name[0].toUpperCase() + name.slice(1),
    email: `${name}@merrowpoint.example`,
    email_verified: true,
    roles,
    groups,
    bought,
    ...attributes,
  };
}

/** Somebody who was not here before is known by their e-mail address from now on. */
function newPerson(email) {
  const name = email.split('@')[0];
  const title = name[0].toUpperCase() + name.slice(1);
  const person = { ...claimsOf(email, { title }), sub: `new-${email}`, email };
  accounts.set(person.sub, person);
  return person.sub;
}

const EMAIL = /^[^@\s]{1,64}@[^@\s]{1,190}$/;

const escaped = (text) => String(text).replace(/[&<>"']/g, (one) => `&#${one.charCodeAt(0)};`);
const page = (title, body) => `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${title}</title>
<style>
:root { color-scheme: light dark }
body { font: 17px/1.5 system-ui, sans-serif; max-width: 34rem; margin: 10vh auto; padding: 0 1.5rem }
h1 { font-size: 1.4rem }
input { font: inherit; width: 100%; padding: .3em .5em; box-sizing: border-box }
button { font: inherit; width: 100%; text-align: left; padding: .4em .8em; margin: .15em 0 }
small { opacity: .75 }
</style>
<h1>${title}</h1>
${body}
</html>`;

function start() {
  const server = createServer();
  server.listen(Number(options.port), '127.0.0.1', () => {
    const issuer = `http://127.0.0.1:${server.address().port}`;
    server.on('request', requestsOf(issuer));
    console.log(`The test provider is at ${issuer}`);
  });
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => process.exit(0));
}

function requestsOf(issuer) {
  // The library says much about settings that matter only where it is not for tests.
  console.warn = () => {};
  console.info = () => {};
  const provider = new Provider(issuer, {
    clients: [
      {
        client_id: 'merrow-point',
        client_secret: 'only-for-the-demo',
        redirect_uris: [`${options.back}/.kleidon/signed-in`],
        post_logout_redirect_uris: [`${options.back}/.kleidon/signed-out`],
      },
    ],
    claims: {
      openid: ['sub'],
      profile: ['name', 'roles', 'groups', 'bought'],
      email: ['email', 'email_verified'],
    },
    cookies: { keys: ['a test provider has nothing to hide'] },
    features: {
      devInteractions: { enabled: false },
      rpInitiatedLogout: {
        enabled: true,
        // Whoever comes from the gateway has just said that they want to sign out.
        logoutSource: (context, form) => {
          context.body = page(
            'Signing out',
            `${form}<script>document.getElementById('op.logoutForm').submit()</script>
<p><button form="op.logoutForm" name="logout" value="yes">Sign out</button></p>`.replace(
              '</form>',
              '<input type="hidden" name="logout" value="yes"></form>',
            ),
          );
        },
      },
    },
    findAccount: (_, id) => ({ accountId: id, claims: () => accounts.get(id) ?? { sub: id } }),
    // Nobody is asked whether the demo's own website may know who they are.
    loadExistingGrant: async ({ oidc }) => {
      const grant = new provider.Grant({
        clientId: oidc.client.clientId,
        accountId: oidc.session.accountId,
      });
      grant.addOIDCScope('openid profile email');
      await grant.save();
      return grant;
    },
    interactions: { url: (_, interaction) => `/choose/${interaction.uid}` },
    ttl: { Interaction: 600, Session: 3600, Grant: 3600, AccessToken: 600, IdToken: 600 },
  });
  provider.on('server_error', (_, error) => console.error(error));
  const answer = provider.callback();
  return async (request, response) => {
    const url = new URL(request.url, issuer);
    if (!url.pathname.startsWith('/choose/')) return answer(request, response);
    try {
      const { params } = await provider.interactionDetails(request, response);
      const chosen = url.searchParams.get('as') ?? params.login_hint;
      if (accounts.has(chosen)) {
        await provider.interactionFinished(request, response, { login: { accountId: chosen } });
        return;
      }
      const email = url.searchParams.get('email')?.trim().toLowerCase() ?? '';
      if (EMAIL.test(email)) {
        const known = [...accounts].find(([, one]) => one.email === email)?.[0];
        const accountId = known ?? newPerson(email);
        await provider.interactionFinished(request, response, { login: { accountId } });
        return;
      }
      if (url.searchParams.get('cancel') === 'yes') {
        await provider.interactionFinished(request, response, {
          error: 'access_denied',
          error_description: 'The visitor cancelled.',
        });
        return;
      }
      response.setHeader('Content-Type', 'text/html; charset=utf-8');
      response.end(page('Who are you today?', choice()));
    } catch (error) {
      response.writeHead(400, { 'Content-Type': 'text/html; charset=utf-8' });
      response.end(page('This sign-in has run out', `<p>${escaped(error.message)}</p>`));
    }
  };
}

const choice =
  () => `<p>This stands in for an identity provider. Nobody asks for a password here.</p>
<form>${[...accounts]
    .map(([name, { name: title, roles, bought }]) => {
      const traits = [...roles, ...bought.map(({ product }) => `bought ${product}`)];
      return `<button name="as" value="${escaped(name)}">${escaped(title)} <small>${escaped(traits.join(', '))}</small></button>`;
    })
    .join('\n')}
<p><button name="cancel" value="yes">Cancel</button></p></form>
<form><p><label>Someone new: their e-mail address<br><input name="email" type="email" required autocomplete="email"></label></p>
<p><button>Sign in</button></p></form>`;

start();
