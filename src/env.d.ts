import type { OpenSession } from './server/accounts/service.ts';
import type { ApartElement } from './ui/islands/apart.ts';

declare global {
  namespace App {
    interface Locals {
      session: OpenSession | undefined;
      /** What the page's islands are given apart from their attributes. */
      apart?: ApartElement[];
    }
  }
}
