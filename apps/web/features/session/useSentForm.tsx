import { zodResolver } from '@hookform/resolvers/zod';
import { useState } from 'react';
import {
  Controller,
  useForm,
  type DefaultValues,
  type FieldPath,
  type FieldValues,
  type UseFormReturn,
} from 'react-hook-form';
import type { z } from 'zod';
import { Field, type FieldProps } from '../../ui/Field';
import { ApiError } from './api';

/** What a form gives to those who draw it. */
export interface SentForm<V extends FieldValues> {
  form: UseFormReturn<V, unknown, FieldValues>;
  busy: boolean;
  /** Why the server did not take it, where that is not said at a field. */
  failure: Error | null;
  submit: () => void;
}

/**
 * A form whose values are read by a schema of the contract before they are sent, and whose server may find
 * fault with single fields; what was typed stays in any case.
 */
export function useSentForm<V extends FieldValues, T>(
  schema: z.ZodType<T, V>,
  start: DefaultValues<V>,
  send: (values: T) => Promise<void>,
): SentForm<V> {
  const form = useForm<V, unknown, FieldValues>({
    // The schema gives what is sent; the form itself knows what is typed.
    resolver: zodResolver(schema as never) as never,
    defaultValues: start,
  });
  const [failure, setFailure] = useState<Error | null>(null);
  const submit = form.handleSubmit(async (values) => {
    setFailure(null);
    try {
      await send(values as T);
    } catch (thrown) {
      if (!atFields(form, thrown as Error)) setFailure(thrown as Error);
    }
  });
  return {
    form,
    busy: form.formState.isSubmitting,
    failure,
    submit: () => void submit(),
  };
}

/** Puts what the server says of single fields beneath them; whether all of it found its place. */
function atFields<V extends FieldValues>(
  form: UseFormReturn<V, unknown, FieldValues>,
  thrown: Error,
): boolean {
  const errors =
    thrown instanceof ApiError ? ((thrown.body.errors ?? []) as { field: string; detail: string }[]) : [];
  const known = errors.filter(({ field }) => field in form.getValues());
  for (const { field, detail } of known) form.setError(field as FieldPath<V>, { message: detail });
  return known.length > 0 && known.length === errors.length;
}

/** A field of such a form: its label above, what is wrong with it below. */
export function FormField<V extends FieldValues>({
  of,
  name,
  ...rest
}: { of: SentForm<V>; name: FieldPath<V> } & FieldProps) {
  return (
    <Controller
      control={of.form.control}
      name={name}
      render={({ field, fieldState }) => (
        <Field
          ref={field.ref}
          value={String(field.value ?? '')}
          onChangeText={field.onChange}
          onBlur={field.onBlur}
          onSubmitEditing={rest.multiline ? undefined : of.submit}
          problem={sentence(fieldState.error?.message)}
          {...rest}
        />
      )}
    />
  );
}

/** What a schema says of a field, as it stands beneath it. */
function sentence(said: string | undefined): string | null {
  if (!said) return null;
  const words = `${said[0]!.toUpperCase()}${said.slice(1)}`;
  return /[.?]$/.test(words) ? words : `${words}.`;
}
