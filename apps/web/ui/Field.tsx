import { forwardRef } from 'react';
import { TextInput, View, type TextInputProps } from 'react-native';
import { FONTS, useTheme } from './theme';
import { Words } from './Words';

export interface FieldProps extends TextInputProps {
  label: string;
  /** What is wrong with it, in a sentence. */
  problem?: string | null;
  hint?: string;
  hideLabel?: boolean;
}

/** A field with its name above it and what is wrong below it. */
export const Field = forwardRef<TextInput, FieldProps>(function Field(
  { label, problem, hint, hideLabel, style, ...rest },
  ref,
) {
  const { colors } = useTheme();
  return (
    <View style={{ gap: 4, flexGrow: 1 }}>
      {!hideLabel && <Words kind="smallStrong">{label}</Words>}
      <TextInput
        ref={ref}
        aria-label={label}
        aria-invalid={problem ? true : undefined}
        placeholderTextColor={colors.quiet}
        {...rest}
        style={[
          {
            fontFamily: FONTS.text,
            fontSize: 16,
            lineHeight: 22,
            color: colors.ink,
            backgroundColor: colors.sheet,
            borderWidth: 1,
            borderColor: problem ? colors.red : colors.line,
            borderRadius: 6,
            minHeight: 44,
            paddingHorizontal: 12,
            paddingVertical: 10,
          },
          style,
        ]}
      />
      {hint && !problem && <Words kind="small">{hint}</Words>}
      {problem && (
        <Words kind="small" color="red" role="alert">
          {problem}
        </Words>
      )}
    </View>
  );
});
