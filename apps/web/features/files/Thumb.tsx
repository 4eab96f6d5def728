import { Image, View } from 'react-native';
import type { KeptFile } from '@dart-loop/contract/files';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';

/** A picture small, or what kind of file it is. */
export function Thumb({ file }: { file: KeptFile }) {
  const { colors } = useTheme();
  const frame = { width: 56, height: 44, borderRadius: 4, borderWidth: 1, borderColor: colors.line } as const;
  if (file.what === 'image')
    return (
      <Image
        source={{ uri: new URL(file.address, window.location.href).pathname }}
        resizeMode="cover"
        style={frame}
        alt=""
        aria-hidden
      />
    );
  return (
    <View aria-hidden style={{ ...frame, alignItems: 'center', justifyContent: 'center' }}>
      <Words kind="code">{file.address.split('.').at(-1)!.toUpperCase()}</Words>
    </View>
  );
}
