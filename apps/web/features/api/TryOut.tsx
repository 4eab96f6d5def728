import { useState } from 'react';
import { Pressable, View } from 'react-native';
import { onWeb } from '../../ui/onWeb';
import useSWR from 'swr';
import { Field } from '../../ui/Field';
import { whenHovered } from '../../ui/hover';
import { Json } from '../../ui/Json';
import { Failure, Refused, Waiting } from '../../ui/parts';
import { ActionButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { addressOf, exampleOf, operationsOf, type OpenApi, type Tryable } from './operations';

const readDocument = async (address: string): Promise<OpenApi> => {
  const answer = await fetch(address);
  if (!answer.ok) throw new Error(`The document could not be read (${answer.status}).`);
  return (await answer.json()) as OpenApi;
};

/** Every operation as the document describes it; each can be called for real, with a key. */
export function TryOut({ token, onToken }: { token: string; onToken: (token: string) => void }) {
  const { data, error, mutate } = useSWR<OpenApi, Error>('/v1/openapi.json', readDocument, {
    revalidateOnFocus: false,
  });
  const [open, setOpen] = useState<string | null>(null);
  return (
    <View style={{ gap: 10 }}>
      <Words kind="heading">Try it</Words>
      <Words kind="small">
        Each call is made for real, on this client’s people. Every operation says which scope its key needs.
      </Words>
      <Field
        label="Key to try with"
        placeholder="The key of one of the client’s systems"
        autoCapitalize="none"
        autoCorrect={false}
        autoComplete="off"
        secureTextEntry
        value={token}
        onChangeText={onToken}
      />
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      <View role="list" aria-label="Operations">
        {data &&
          operationsOf(data).map((operation) => (
            <Operation
              key={operation.operationId}
              operation={operation}
              token={token}
              isOpen={open === operation.operationId}
              onToggle={() =>
                setOpen((now) => (now === operation.operationId ? null : operation.operationId))
              }
            />
          ))}
      </View>
    </View>
  );
}

function Operation({
  operation,
  token,
  isOpen,
  onToggle,
}: {
  operation: Tryable;
  token: string;
  isOpen: boolean;
  onToggle: () => void;
}) {
  const { colors } = useTheme();
  return (
    <View role="listitem" style={{ borderTopWidth: 1, borderColor: colors.line }}>
      <Pressable
        role="button"
        aria-expanded={isOpen}
        onPress={onToggle}
        style={whenHovered((hovered) => ({
          minHeight: 44,
          paddingVertical: 10,
          paddingHorizontal: 8,
          borderRadius: 6,
          backgroundColor: hovered ? colors.inset : undefined,
        }))}
      >
        <Words kind="strong" color="teal">
          {operation.summary}
        </Words>
        <Words kind="code">{`${operation.method} /v1${operation.path}`}</Words>
      </Pressable>
      {isOpen && <Call operation={operation} token={token} />}
    </View>
  );
}

function Call({ operation, token }: { operation: Tryable; token: string }) {
  const schema = operation.requestBody?.content['application/json'].schema;
  const [given, setGiven] = useState<Record<string, string>>({});
  const [body, setBody] = useState(() => (schema ? JSON.stringify(exampleOf(schema), null, 2) : ''));
  const [busy, setBusy] = useState(false);
  const [answer, setAnswer] = useState<{ status: number; body: unknown } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const { parameters = [] } = operation;
  const unread = schema !== undefined && !isJson(body) ? 'This is not JSON yet.' : null;
  const lacks = parameters.some(({ name, in: place }) => place === 'path' && !given[name]?.trim());
  const send = async () => {
    setBusy(true);
    setProblem(null);
    try {
      const response = await fetch(addressOf(operation, given), {
        method: operation.method,
        credentials: 'omit',
        headers: {
          authorization: `Bearer ${token.trim()}`,
          ...(schema && { 'content-type': 'application/json' }),
        },
        ...(schema && { body }),
      });
      const text = await response.text();
      setAnswer({ status: response.status, body: isJson(text) ? JSON.parse(text) : text });
    } catch {
      setProblem('The server cannot be reached. Nothing is lost; send it again.');
    }
    setBusy(false);
  };
  return (
    <View style={{ gap: 10, paddingHorizontal: 8, paddingBottom: 16 }}>
      {operation.description && <Words kind="small">{operation.description}</Words>}
      {parameters.map(({ name, description, in: place }) => (
        <Field
          key={name}
          label={place === 'path' ? name : `${name}, if wanted`}
          hint={description}
          autoCapitalize="none"
          value={given[name] ?? ''}
          onChangeText={(typed) => setGiven({ ...given, [name]: typed })}
        />
      ))}
      {schema && (
        <Field
          label="Body, as JSON"
          multiline
          autoCapitalize="none"
          autoCorrect={false}
          problem={unread}
          value={body}
          onChangeText={setBody}
          {...onWeb({ rows: Math.max(3, Math.min(14, body.split('\n').length)) })}
        />
      )}
      {schema?.properties && (
        <View role="list" aria-label="What the body may hold">
          {Object.entries(schema.properties).map(([name, each]) => (
            <View key={name} role="listitem" style={{ flexDirection: 'row', flexWrap: 'wrap', columnGap: 8 }}>
              <Words kind="code" color="ink">
                {name}
              </Words>
              <Words kind="small" style={{ flexShrink: 1 }}>
                {[schema.required?.includes(name) ? 'needed' : '', each.description ?? each.type ?? '']
                  .filter(Boolean)
                  .join(': ')}
              </Words>
            </View>
          ))}
        </View>
      )}
      <View style={{ alignItems: 'flex-start' }}>
        <ActionButton
          title="Send"
          label={`Send: ${operation.summary}`}
          busy={busy}
          disabled={token.trim() === '' || unread !== null || lacks}
          onPress={() => void send()}
        />
      </View>
      {token.trim() === '' && (
        <Words kind="small">A key is needed first; make one above, or put one in.</Words>
      )}
      <Refused problem={problem} />
      {answer && (
        <View role="status" style={{ gap: 4 }}>
          <Words
            kind="smallStrong"
            color={answer.status >= 400 ? 'red' : 'ink'}
          >{`Answered ${answer.status}`}</Words>
          <Json label="Answer" value={answer.body} />
        </View>
      )}
    </View>
  );
}

function isJson(text: string): boolean {
  try {
    JSON.parse(text);
    return true;
  } catch {
    return false;
  }
}
