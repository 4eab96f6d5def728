import { View } from 'react-native';
import BookOpen from 'lucide-react-native/icons/book-open';
import Braces from 'lucide-react-native/icons/braces';
import ClipboardList from 'lucide-react-native/icons/clipboard-list';
import Cpu from 'lucide-react-native/icons/cpu';
import FileImage from 'lucide-react-native/icons/file-image';
import Calendar from 'lucide-react-native/icons/calendar';
import ChevronDown from 'lucide-react-native/icons/chevron-down';
import ChevronLeft from 'lucide-react-native/icons/chevron-left';
import CircleUser from 'lucide-react-native/icons/circle-user';
import Ellipsis from 'lucide-react-native/icons/ellipsis';
import EllipsisVertical from 'lucide-react-native/icons/ellipsis-vertical';
import IdCard from 'lucide-react-native/icons/id-card';
import List from 'lucide-react-native/icons/list';
import Menu from 'lucide-react-native/icons/menu';
import MessageSquare from 'lucide-react-native/icons/message-square';
import Pin from 'lucide-react-native/icons/pin';
import PinOff from 'lucide-react-native/icons/pin-off';
import Radio from 'lucide-react-native/icons/radio';
import Receipt from 'lucide-react-native/icons/receipt-text';
import Redo from 'lucide-react-native/icons/redo-2';
import RefreshCw from 'lucide-react-native/icons/refresh-cw';
import Repeat from 'lucide-react-native/icons/repeat-2';
import Sliders from 'lucide-react-native/icons/sliders-horizontal';
import Smartphone from 'lucide-react-native/icons/smartphone';
import Store from 'lucide-react-native/icons/store';
import Sun from 'lucide-react-native/icons/sun';
import Tags from 'lucide-react-native/icons/tags';
import Undo from 'lucide-react-native/icons/undo-2';
import Upload from 'lucide-react-native/icons/upload';
import User from 'lucide-react-native/icons/user';
import UserCog from 'lucide-react-native/icons/user-cog';
import Users from 'lucide-react-native/icons/users';
import Webhook from 'lucide-react-native/icons/webhook';
import { useTheme, type Palette } from './theme';

/** One drawing for each thing, everywhere the same. Each file of the set is a drawing, so only these load. */
const DRAWINGS = {
  account: CircleUser,
  answers: BookOpen,
  audit: ClipboardList,
  api: Braces,
  back: ChevronLeft,
  brief: IdCard,
  clients: Store,
  bookings: Calendar,
  down: ChevronDown,
  fields: Tags,
  files: FileImage,
  import: Upload,
  inbox: MessageSquare,
  lines: Radio,
  lists: List,
  loops: Repeat,
  menu: EllipsisVertical,
  model: Cpu,
  more: Menu,
  options: Ellipsis,
  people: Users,
  person: User,
  pin: Pin,
  unpin: PinOff,
  receipts: Receipt,
  redo: Redo,
  sending: Sliders,
  sync: RefreshCw,
  team: UserCog,
  'test phone': Smartphone,
  today: Sun,
  undo: Undo,
  webhooks: Webhook,
} as const;
export type IconName = keyof typeof DRAWINGS;

/** A drawing beside its word; whoever cannot see it hears the word alone. */
export function Icon({
  name,
  color = 'ink',
  size = 20,
}: {
  name: IconName;
  color?: keyof Palette;
  size?: number;
}) {
  const { colors } = useTheme();
  const Drawing = DRAWINGS[name];
  return (
    <View aria-hidden style={{ width: size, height: size }}>
      <Drawing size={size} color={colors[color]} strokeWidth={1.75} />
    </View>
  );
}
