import type { OpenSession } from './server/accounts/service.ts';

declare global {
  namespace App {
    interface Locals {
      session: OpenSession | undefined;
    }
  }
}
