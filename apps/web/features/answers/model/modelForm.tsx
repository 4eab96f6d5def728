import { View } from 'react-native';
import { z } from 'zod';
import type { KeptModel } from '@dart-loop/contract/model';
import { HostedModel } from '@dart-loop/core/answers/hosted/settings';
import { amountWords } from '@dart-loop/core/people/currency';
import { FormField, type SentForm } from '../../session/useSentForm';

/** A number as it is typed, with a point or a comma. */
export const typed = (read: z.ZodType<number, number>) =>
  z
    .string()
    .trim()
    .transform((text) => (text === '' ? Number.NaN : Number(text.replace(',', '.'))))
    .refine((number) => Number.isFinite(number), 'write a number')
    .pipe(read);

/** Where a model is and what it costs, as somebody types it. */
const { address, model, currency, priceSent, priceBack, mostAMonth } = HostedModel.shape;
export const ModelForm = z.object({
  ...{ address, model, currency },
  priceSent: typed(priceSent),
  priceBack: typed(priceBack),
  mostAMonth: typed(mostAMonth),
  token: z
    .string()
    .trim()
    .transform((text) => text || undefined),
});
export type ModelTyped = z.input<typeof ModelForm>;

export const startOf = (kept: KeptModel | null): ModelTyped => ({
  address: kept?.model.address ?? '',
  model: kept?.model.model ?? '',
  currency: kept?.model.currency ?? 'GBP',
  priceSent: String(kept?.model.priceSent ?? ''),
  priceBack: String(kept?.model.priceBack ?? ''),
  mostAMonth: String(kept?.model.mostAMonth ?? '20'),
  token: '',
});

/** What is sent of it. */
export function bodyOf({ token, ...model }: z.output<typeof ModelForm>) {
  return { model, ...(token !== undefined && { token }) };
}

/** An amount with as many digits as a small one needs. */
export const costWords = (amount: number, currency: string): string =>
  amount > 0 && amount < 0.01 ? `under ${amountWords(0.01, currency)}` : amountWords(amount, currency);

export function ModelFields({ of, hint }: { of: SentForm<ModelTyped>; hint: string | null }) {
  return (
    <View style={{ gap: 12 }}>
      <FormField
        of={of}
        name="address"
        label="Address"
        placeholder="https://example.org/v1/chat/completions"
        hint="Where chat completions are asked for"
        inputMode="url"
        autoCapitalize="none"
      />
      <FormField of={of} name="model" label="Model" hint="As it is called there" autoCapitalize="none" />
      <FormField
        of={of}
        name="token"
        label="Key"
        hint={hint === null ? 'Sent with every question' : `Ends in ${hint}. Left empty, it stays.`}
        secureTextEntry
        autoCapitalize="none"
      />
      <FormField of={of} name="currency" label="Currency of its prices" autoCapitalize="characters" />
      <FormField of={of} name="priceSent" label="Price for a million tokens sent" inputMode="decimal" />
      <FormField of={of} name="priceBack" label="Price for a million tokens back" inputMode="decimal" />
      <FormField
        of={of}
        name="mostAMonth"
        label="It may cost a month"
        hint="Then the sources answer alone until the next month begins"
        inputMode="decimal"
      />
    </View>
  );
}
