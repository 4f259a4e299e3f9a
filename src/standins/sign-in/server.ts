import { generateKeyPairSync, randomBytes } from 'node:crypto';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { Provider } from 'oidc-provider';
import { escapeHtml } from '../../core/content/escapeHtml.ts';
import { page } from '../page.ts';

/** What the provider tells of an account. */
interface Account {
  sub: string;
  email: string;
  email_verified: boolean;
  name: string;
}

export interface SignInStandIn {
  stop: () => Promise<void>;
}

const MOST_BYTES = 10_000;

async function formOf(request: IncomingMessage): Promise<URLSearchParams> {
  let text = '';
  for await (const part of request) {
    text += String(part);
    if (text.length > MOST_BYTES) break;
  }
  return new URLSearchParams(text);
}

/** The page on which one says who one is: there are no passwords here. */
const loginPage = (uid: string): string =>
  page(
    'Sign in',
    `<h1>Thistledown House</h1><p>A stand-in for a house’s own sign-in. Say who you are; nobody checks.</p>
<form method="post" action="/interaction/${escapeHtml(uid)}">
<p><label>Mail address <input name="email" value="marli@thistledown.example" size="40"></label></p>
<p><label>Name <input name="name" value="Marli Saltbrook" size="40"></label></p>
<p><label>Account <input name="sub" placeholder="as the mail address" size="40"></label></p>
<p><label><input type="checkbox" name="verified" value="yes" checked> the address is verified</label></p>
<p><button>Sign in</button> <button name="refuse" value="yes">Do not</button></p></form>`,
  );

/**
 * An OpenID Connect provider to sign in with, as a stand-in for an organisation's own. It signs in whoever one says one is.
 *
 * @param given.back the address people are sent back to
 * @param given.out the address people are sent to after signing out
 */
export async function startSignInStandIn(given: {
  port: number;
  clientId: string;
  clientSecret: string;
  back: string;
  out: string;
}): Promise<SignInStandIn> {
  const issuer = `http://localhost:${given.port}`;
  const accounts = new Map<string, Account>();
  const { privateKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
  const key = { ...privateKey.export({ format: 'jwk' }), use: 'sig', alg: 'RS256', kid: 'one' };
  const provider: Provider = new Provider(issuer, {
    clients: [
      {
        client_id: given.clientId,
        client_secret: given.clientSecret,
        redirect_uris: [given.back],
        post_logout_redirect_uris: [given.out],
      },
    ],
    jwks: { keys: [key] },
    cookies: { keys: [randomBytes(24).toString('hex')] },
    pkce: { required: () => true },
    claims: { openid: ['sub'], email: ['email', 'email_verified'], profile: ['name', 'preferred_username'] },
    ttl: {
      AccessToken: 600,
      AuthorizationCode: 60,
      IdToken: 600,
      Interaction: 600,
      Session: 3600,
      Grant: 3600,
    },
    features: {
      devInteractions: { enabled: false },
      rpInitiatedLogout: {
        logoutSource: (context, form) => {
          context.body = page(
            'Sign out',
            `<h1>Sign out of Thistledown House?</h1>${form}<p><button type="submit" form="op.logoutForm" value="yes" name="logout">Sign out</button></p>`,
          );
        },
      },
    },
    interactions: { url: (_, interaction) => `/interaction/${interaction.uid}` },
    findAccount: (_, id) => {
      const account = accounts.get(id);
      return (
        account && {
          accountId: id,
          claims: () => Promise.resolve({ ...account, preferred_username: account.email.split('@')[0] }),
        }
      );
    },
    // Nobody is asked what of theirs may be told: it is their own house.
    loadExistingGrant: async (context) => {
      const { client, session } = context.oidc;
      if (!client || session?.accountId === undefined) return undefined;
      const grant = new provider.Grant({ accountId: session.accountId, clientId: client.clientId });
      grant.addOIDCScope('openid email profile');
      await grant.save();
      return grant;
    },
  });
  const handle = provider.callback();

  async function interact(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const { uid } = await provider.interactionDetails(request, response);
    if (request.method !== 'POST') {
      response.writeHead(200, { 'content-type': 'text/html; charset=utf-8' }).end(loginPage(uid));
      return;
    }
    const form = await formOf(request);
    if (form.has('refuse')) {
      await provider.interactionFinished(request, response, { error: 'access_denied' });
      return;
    }
    const email = form.get('email') ?? '';
    const account: Account = {
      sub: form.get('sub') || email,
      email,
      email_verified: form.get('verified') === 'yes',
      name: form.get('name') ?? '',
    };
    accounts.set(account.sub, account);
    await provider.interactionFinished(request, response, { login: { accountId: account.sub } });
  }

  const server = createServer((request, response) => {
    const url = new URL(request.url ?? '/', issuer);
    if (url.pathname === '/')
      response
        .writeHead(200, { 'content-type': 'text/html; charset=utf-8' })
        .end(
          page(
            'Sign-in',
            `<h1>Thistledown House</h1><p>A stand-in for a house’s own sign-in. Begin on the sign-in page of Clear Bell.</p>`,
          ),
        );
    else if (url.pathname.startsWith('/interaction/'))
      interact(request, response).catch((error: unknown) => {
        response.writeHead(400, { 'content-type': 'text/plain' }).end(String(error));
      });
    else void handle(request, response);
  });
  await new Promise<void>((resolve) => server.listen(given.port, '127.0.0.1', resolve));
  return {
    stop: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}
