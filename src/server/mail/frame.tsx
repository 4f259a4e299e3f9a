import { Body, Button, Container, Head, Html, Text } from '@react-email/components';
import type { ReactNode } from 'react';

const ink = '#1D2B2A';
export const quiet = '#566460';
const serifless = 'Verdana, Geneva, sans-serif';

/** The frame of a short mail: whose it is, its heading, and what it says. */
export function MailFrame({
  organisation,
  heading,
  children,
}: {
  organisation: string;
  heading: string;
  children: ReactNode;
}) {
  return (
    <Html lang="en">
      <Head />
      <Body style={{ backgroundColor: '#F7F4EC', color: ink, fontFamily: serifless, margin: 0 }}>
        <Container style={{ backgroundColor: '#FFFEFA', padding: '26px', maxWidth: '620px' }}>
          <Text style={{ color: quiet, fontSize: '13px', margin: '0 0 10px' }}>{organisation}</Text>
          <h1 dir="auto" style={{ fontSize: '22px', lineHeight: '28px', margin: '0 0 16px' }}>
            {heading}
          </h1>
          {children}
        </Container>
      </Body>
    </Html>
  );
}

/** The one button of a short mail. */
export function MailButton({ href, words }: { href: string; words: string }) {
  return (
    <Button
      href={href}
      style={{
        backgroundColor: '#8A4B12',
        color: '#FFFEFA',
        padding: '12px 20px',
        borderRadius: '4px',
        fontSize: '16px',
        fontWeight: 'bold',
        marginTop: '8px',
      }}
    >
      {words}
    </Button>
  );
}
