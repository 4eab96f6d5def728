/**
 * Words that mean the same to whoever asks: a question and a passage that share one speak of the same thing,
 * though in other words. One line for each; the first word is its name.
 */
const LINES = `
  price: cost, costs, fee, fees, charge, charged, pay, paid, expensive, cheap, rate, tariff, £, pound, pounds, euro, €
  cheaper: discount, reduced, reduction, less, concession, offer, deal, off, cheap, %
  free: gratis, nothing, complimentary, included
  open: opening, opens, close, closes, closed, closing, shut, hours
  start: begin, begins, beginning, starts, first, next, leave, leaves, departure, depart
  end: last, latest, finish, until, ends
  long: duration, lasts, take, takes, minutes, length
  early: earliest, before, beforehand, arrive
  book: booking, reserve, reserved, reservation, register, enrol, enroll, sign, join, signup
  cancel: cancellation, cancelled, refund, refunded, refunds, return, returned, money, back, withdraw
  change: changed, changing, switch, move, swap, exchange, reschedule
  card: cards, visa, contactless, credit, debit, cash, cheque, payment
  instalments: parts, instalment, monthly, split
  voucher: vouchers, gift, present, giftcard
  member: membership, members, subscription, season, pass, monthly, yearly, annual
  freeze: pause, paused, suspend, hold
  share: lend, lent, transfer, shared, someone else
  child: children, kid, kids, baby, babies, toddler, toddlers, son, daughter, boy, girl, teenager, teenagers, young, age, old, pupils, under
  student: students, pupil, apprentice, apprentices, university
  senior: seniors, pensioner, pensioners, retired, sixties, oap
  family: families, adults, parents, parent
  group: groups, party, parties, people, school, schools, many
  firm: firms, company, office, staff, business, corporate, team
  dog: dogs, puppy, pet, pets, animal, animals, lead
  wheelchair: wheelchairs, disabled, disability, accessible, access, step, steps, ramp, lift, stairs, mobility
  carer: helper, carers, assistant, companion
  deaf: hearing, aid, hard of hearing
  baby: pram, prams, buggy, nappy
  toilet: toilets, washroom
  shower: showers, changing, wash
  locker: lockers, stuff, valuables, cloakroom
  food: eat, eating, meal, meals, snack, snacks, sandwich, sandwiches, soup, cake, restaurant, kitchen, cafe, tea, coffee, bar, beer, drink, drinks, lunch
  park: parking, car, cars, space, spaces, garage
  bus: train, station, public transport, tram, stop
  where: address, find, located, location, way, street, directions, far, getting
  bicycle: bicycles, bike, cycle, cycling
  car: vehicle, vehicles, van, vans, caravan, motorbike, drive
  luggage: suitcase, suitcases, bag, bags, baggage, case
  lost: left, forgot, forgotten, found, find, missing, property
  late: latecomers, delayed, delay, running
  missed: miss, missing, catch up, made up
  weather: wind, windy, storm, rain, rough, force
  holiday: holidays, christmas, easter, bank, new year, boxing
  clothes: wear, bring, dress, trousers, shoes, equipment, kit, need
  rent: hire, hiring, rental, renting, lend, borrow, borrowed, lease
  beginner: beginners, never, first, new, try, trial, start, taster
  lesson: lessons, class, classes, course, courses, teach, teaches, taught, learn, coach, coached, private, teacher, teachers, tuition
  online: video, zoom, internet, remote, web
  level: levels, grade, test, placement
  exam: exams, test, certificate, certificates, qualification
  job: jobs, work, vacancy, vacancies, career, apply, employ
  deliver: delivery, send, sent, post, postage, shipping, ship, bring
  guarantee: warranty, replace, replaced, die, died, broken, faulty
  loud: sound, noise, quiet, noisy, busy, crowded, busiest
  height: heights, scared, afraid, fear
  pregnant: pregnancy, doctor, injury, injured, surgery, medical
  birthday: birthdays, celebration, celebrate
  wedding: weddings, event, events, private
  subtitles: language, languages, dubbed, original
  seat: seats, sit, reserved, row
  plant: plants, planting, planted, grow, grows, growing
  cut: prune, pruning, trim, cutting
  poisonous: toxic, dangerous, safe
  shade: shady, dark
  tree: trees
  soil: compost, earth
  water: watering, waters
  adult: grown-ups, grown up, adults
  alone: own, partner, single, myself, solo, one to one
  talk: discussion, speaking, practise, practice, conversation
  house: garden, home
  winter: frost, cold, heating, warm`;

const CONCEPTS = LINES.trim()
  .split('\n')
  .map((line) => {
    const [name, words] = line.split(':') as [string, string];
    return [name.trim(), ...words.split(',').map((word) => word.trim())];
  });

/** The words of each concept, its name first. */
export const conceptWords: readonly (readonly string[])[] = CONCEPTS;
