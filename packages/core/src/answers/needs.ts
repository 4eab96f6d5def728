/**
 * What people ask any business, in their own words, and what the passage that answers it speaks of. `asks`:
 * ways of putting it; `heading` and `text`: words that stand there.
 */
export interface Need {
  name: string;
  asks: readonly string[];
  heading: readonly string[];
  text: readonly string[];
}

/** One need in four lines: its name, ways of asking, words of the heading, words of the text. */
const WRITTEN = `
opening hours
  when are you open; what time do you close; are you open today; are you open on sunday; opening times
  opening hours, hours, opening times, desk, office
  open, closed, closes
closed days
  are you open on christmas; are you open on bank holidays; are you shut over new year; are you closed in january; do you open at easter
  holidays, opening hours, closed
  closed, december, january, holidays
price
  how much is it; what does it cost; price please; how much do you charge; what are your prices
  price, prices, cost, fee, fees, tickets, costs
  £, €, costs
children's price
  how much for kids; do children pay; price for a child; is it free for under fives; child ticket
  children, families, prices, tickets
  children, free, half, under
discount
  is there a discount; student price; do pensioners pay less; can i get it cheaper; any offers
  less, discount, discounts, reduced, concessions
  less, off, students, %
group
  we are a group of twelve; group discount; can we come with twenty people; school trip; group booking
  groups, schools, group
  groups, people, school
booking
  how do i book; can i reserve a place; do i need to book; how do i sign up; can i book online
  booking, enrol, reserving, book, reservations
  book, booked, form, online
cancel
  can i cancel; how do i cancel; can i get my money back; refund please; i can not come any more
  refunds, cancel, cancelling, changing, cannot come, back
  refund, cancelled, given back, back, free of charge
change a booking
  can i change my booking; can i move it to another day; can i switch; reschedule; can i come another time
  changing, changes, change
  change, changed, another
membership
  how do i become a member; what is the membership; monthly pass; season ticket; annual pass
  membership, season, card, friends, pass
  month, year, valid
end a membership
  how do i end my membership; cancel my subscription; can i pause my membership; stop my membership; freeze my account
  membership, subscription
  ended, paused, month
multi ticket
  do you have a multi ticket; ten trip card; can i buy several at once; punch card; bundle
  card, ten, multi, bundle
  ten, valid, card
voucher
  do you do gift vouchers; gift card; can i buy a voucher as a present; do vouchers expire; how long is a voucher valid
  vouchers, gift, gifts
  vouchers, valid, voucher
payment
  can i pay by card; do you take cash; how can i pay; do you accept cards; apple pay
  pay, payment, paying
  cards, cash, card
instalments
  can i pay in instalments; can i pay monthly; pay later; split the payment; payment plan
  parts, instalments
  parts, instalments
deposit
  do i have to pay a deposit; how much is the deposit; do i pay up front; when do i have to pay; is there a deposit
  deposit, enrol, booking, pay
  deposit, due
children allowed
  can i bring my children; is it suitable for toddlers; how old do you have to be; minimum age; my son is five can he come
  children, age, age limits, kids, teenagers
  years, children, from, under
child alone
  can my child come alone; does a parent have to be there; can a twelve year old go by himself; do i have to stay; unaccompanied child
  children, age
  adult, parent, with them, signed
dog
  can i bring my dog; are dogs allowed; is it dog friendly; can my puppy come; do you take pets
  dogs, animals, pets
  dogs, dog, lead
wheelchair
  is it wheelchair accessible; are there steps; is there a lift; my mother can not walk well; disabled access
  wheelchairs, wheelchair, step-free, access, accessibility
  wheelchair, wheelchairs, step, ramp, lift, stairs
pram
  can i bring a pram; is there room for a pram; baby changing; can i bring my baby; pushchair access
  prams, baby, wheelchairs
  prams, baby
hearing
  i am hard of hearing; do you have a hearing loop; subtitles for deaf people; i wear a hearing aid; sign language
  hearing, subtitles
  hearing, subtitles
parking
  where can i park; is there parking; is parking free; how much is the car park; can i leave my car
  parking, park, car
  parking, car park, spaces, garage
getting here
  how do i get there; where are you; what is the address; which bus; how far from the station
  finding, getting here, where, coming, bus, directions
  station, street, bus, minutes
toilets
  are there toilets; where is the toilet; is there a toilet on board; baby changing room; do you have a loo
  toilets, toilet
  toilet, toilets
food
  is there a cafe; can i get something to eat; do you sell coffee; can i get lunch; do you have a bar
  food, drink, eating, cafe, tea, restaurant, bar
  coffee, tea, cake, soup
own food
  can i bring my own food; can we bring a cake; can i bring a drink; can we have a picnic; can i eat inside
  food, eating, cake
  own, bring
clothes
  what should i wear; what do i have to bring; do i need special clothes; what do i need; is equipment included
  bring, wear, equipment, need
  bring, wear, trousers, shoes
lockers
  are there lockers; where can i leave my bag; can i leave my things; is there a cloakroom; is there somewhere safe for my phone
  lockers, cloakroom, luggage, bring
  lockers, locker
showers
  are there showers; can i change there; do you have changing rooms; can i shower after; do you lend towels
  showers, changing
  showers, towels
hire equipment
  can i rent equipment; do you hire it out; can i borrow one; how much to rent; do you rent shoes
  renting, hire, rental, lend
  rent, rented, lend, hire
beginners
  i have never done it before; is it for beginners; do i need experience; can i try it; i am a total beginner
  beginners, first time, trial, fit, level
  first, beginners, trial, never
fitness
  do i have to be fit; i am pregnant can i do it; i have a bad back; is it dangerous; i am scared
  fit, fear, health, pregnant
  doctor, surgery, pregnant, fit
courses
  do you have courses; can i learn it; do you give lessons; when does the next course start; do you run classes
  course, courses, lessons, classes, workshop
  course, evenings, lessons, begins
private lesson
  how much is a private lesson; one to one; 1 to 1; can i have a teacher for myself; private tuition
  private, coached, one to one, alone
  alone, one to one, hour
online
  can i do it online; do you do video lessons; can i join from home; is it on zoom; remote
  online, video
  online, video
level
  how do i know my level; which group is right for me; is there a test; which course should i take; how good do i have to be
  level, levels, placement, test
  test, level, levels
exam
  can i take an exam; how much is the exam; when is the exam; do i get a certificate; official certificate
  exam, exams, certificate, certificates, test
  exam, certificate, fee
missed
  i missed a lesson; can i catch up; i was ill; can i make it up; i can not come on tuesday
  missed, cannot come
  missed, made up
too few
  what if not enough people come; is it cancelled if few people come; minimum number; will it take place; how many people do you need
  not take place, cancelled, minimum
  fewer, cancelled, least
group size
  how many people are in a group; how big are the classes; maximum number of people; how many can come; small groups
  groups, courses, group
  at most, groups of, people
duration
  how long does it take; how long is it; how long does it last; when is it over; how many hours
  how long, duration
  minutes, hours, takes, lasts
arrive early
  how early should i come; when do i have to be there; when do the doors open; check in time; how long before
  be there, doors, arrive, check
  before, minutes
late
  what if i am late; will you let us in late; we are running late; how long do you wait; can i come later
  late, latecomers
  late, after, until
lost property
  i lost something; i left my jacket; have you found my phone; lost property; i forgot my umbrella
  lost, found, property
  found, kept, lost
delivery
  do you deliver; how much is delivery; can you send it; how long does delivery take; do you post things
  delivery, post, sending, shipping
  post, bring, parcel, deliver
returns
  can i return it; can i exchange it; i bought the wrong one; can i bring it back; it does not fit
  returns, giving back, back, exchange
  given back, receipt, weeks
guarantee
  it broke; is there a guarantee; it died can i get a new one; warranty; it does not work any more
  guarantee, warranty
  replaced, covered, guarantee
reserve goods
  can you keep it for me; can you hold one; put it aside; can i collect it later; can you save one for me
  aside, reserve, collecting, keeping
  keep, week, aside
visit at home
  can you come to my house; can somebody come and look; do you do home visits; can you do it for me; do you come out
  visits, home, for you
  comes to, come to your, hour
hire the place
  can we rent the place; private hire; can we have a party there; can i book it for a wedding; birthday party
  hiring, hire, parties, party, birthday, weddings
  hired, party, parties, hours
companies
  do you work with companies; can you come to our office; invoice for a firm; team event; staff training
  firms, companies, teams
  office, firm, invoice, company
weather
  what if it rains; is it cancelled when it is windy; what about the weather; do you go out in a storm; is it outdoors
  weather, rain
  weather, rain, wind, force
bicycle
  can i bring my bike; is there a place for bikes; can i take a bicycle; bike parking; can i bring an electric bicycle
  bicycles, bikes, bicycle
  bicycles, bicycle
luggage
  how much luggage can i take; how many suitcases; can i bring a big bag; is there a weight limit; can i take a surfboard
  luggage, bags
  kilograms, pieces, luggage
quiet time
  when is it quiet; when is it less crowded; is it busy on saturday; busiest times; best time to come
  busy, quiet
  busiest, quiet
alone
  can i come alone; can i do it without a partner; i have nobody to come with; can i join by myself; single person
  alone, partner
  alone, partner
job
  are you hiring; do you have any jobs; can i work for you; i am looking for work; vacancies
  work with us, jobs, careers, vacancies
  look for, experience, apply
contact
  can i call you; what is your phone number; what is your email; who can i talk to; how do i reach you
  contact, office, desk
  call, email, write to`;

const list = (line: string, mark: string): string[] =>
  line
    .split(mark)
    .map((each) => each.trim())
    .filter(Boolean);

function readNeeds(): Need[] {
  const lines = WRITTEN.trim().split('\n');
  const needs: Need[] = [];
  for (let at = 0; at + 3 < lines.length; at += 4) {
    const [name = '', asks = '', heading = '', text = ''] = lines.slice(at, at + 4);
    needs.push({
      name: name.trim(),
      asks: list(asks, ';'),
      heading: list(heading, ','),
      text: list(text, ','),
    });
  }
  return needs;
}

/** The needs of everyday. */
export const NEEDS: readonly Need[] = readNeeds();
