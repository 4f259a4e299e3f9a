import type { Session } from './server/accounts/service.ts';

declare global {
  namespace App {
    interface Locals {
      session: Session | undefined;
    }
  }
}
