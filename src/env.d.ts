declare namespace App {
  interface Locals {
    session: import('./server/accounts/service.ts').Session | undefined;
  }
}
