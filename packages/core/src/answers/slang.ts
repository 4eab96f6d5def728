/**
 * What people type in the place of a word, in English. Looked up after folding: no apostrophes, small
 * letters.
 */
const WRITTEN = `
  u=you, ur=your, r=are, y=why, n=and, k=ok, pls=please, plz=please, plse=please, thx=thanks, ty=thanks,
  cuz=because, coz=because, cos=because, bc=because, wanna=want to, gonna=going to, gotta=have to,
  gimme=give me, lemme=let me, dunno=do not know, kinda=kind of, whats=what is, wheres=where is,
  whens=when is, hows=how is, whos=who is, theres=there is, its=it is, thats=that is, im=i am,
  ive=i have, id=i would, ill=i will, youre=you are, theyre=they are, dont=do not,
  doesnt=does not, didnt=did not, cant=can not, cannot=can not, couldnt=could not, wont=will not,
  wouldnt=would not, isnt=is not, arent=are not, wasnt=was not, havent=have not, hasnt=has not,
  shouldnt=should not, aint=is not, tmrw=tomorrow, tmr=tomorrow, tmw=tomorrow, tomoz=tomorrow, 2moro=tomorrow,
  2morrow=tomorrow, 2nite=tonight, tonite=tonight, 2day=today, b4=before, l8r=later, l8=late, gr8=great,
  m8=mate, yday=yesterday, mon=monday, tue=tuesday, tues=tuesday, weds=wednesday, thu=thursday, thur=thursday,
  thurs=thursday, fri=friday, jan=january, feb=february, aug=august, sept=september, oct=october,
  nov=november, dec=december, xmas=christmas, crimbo=christmas, nye=new year eve, bday=birthday, hols=holidays,
  bhol=bank holiday, wkend=weekend, wknd=weekend, wkends=weekends, wk=week, wks=weeks, hr=hour, hrs=hours,
  min=minute, mins=minutes, yr=year, yrs=years, yo=year old, yos=year olds, tix=tickets, tkt=ticket,
  tkts=tickets, tel=telephone, mob=mobile, num=number, addr=address, appt=appointment,
  appts=appointments, resv=reservation, info=information, deets=details, pic=picture, pics=pictures,
  photo=picture, photos=pictures, vid=video, bf=boyfriend, gf=girlfriend, mum=mother, mom=mother, dad=father,
  nan=grandmother, gran=grandmother, grandad=grandfather, sis=sister, bro=brother, hubby=husband, kiddo=child,
  kiddos=children, lil=little, ppl=people, sm1=somebody, any1=anybody, someone=somebody, anyone=anybody,
  loo=toilet, loos=toilets, bog=toilet, wc=toilet, restroom=toilet, bathroom=toilet, telly=television, tv=television,
  fridge=refrigerator, veg=vegetables, veggie=vegetarian, cuppa=tea, quid=pounds,
  fiver=five pounds, tenner=ten pounds, dosh=money, disc=discount, appx=about, abt=about, asap=soon, atm=now,
  rn=now, rly=really, v=very, w=with, wo=without, fam=family, sesh=session, ref=reference, acc=account,
  sub=subscription, wifi=internet, ebike=electric bicycle, ebikes=electric bicycles,
  bike=bicycle, bikes=bicycles, pushchair=pram, buggy=pram, stroller=pram, motorhome=van, campervan=van,
  camper=van, aircon=air conditioning, ac=air conditioning, installments=instalments`;

const SLANG = new Map(WRITTEN.split(',').map((pair) => pair.trim().split('=') as [string, string]));

/** A folded word as it stands in a book; itself where it is none of slang. */
export const unslanged = (word: string): string => SLANG.get(word) ?? word;
