/**
 * Words that passwords are most often made of, without the digits and signs that follow them: a table of
 * data, put together by hand for this program.
 */
export const COMMON = new Set(
  `password passwort motdepasse contrasena contraseña senha parola welcome willkommen bienvenue bienvenido
   bemvindo benvenuto qwerty qwertyuiop qwertz qwertzuiop azerty azertyuiop asdfghjkl asdfghjklö zxcvbnm
   yxcvbnm letmein letmeinnow iloveyou iloveyousomuch teamo jetaime ichliebedich tiamo sunshine princess
   princesa princesse football fussball futebol futbol baseball basketball superman batman spiderman
   starwars pokemon dragon monkey shadow master masterpassword trustno michael jennifer jessica ashley
   charlie thomas daniel andrew jordan hunter buster soccer hockey killer george computer internet samsung
   whatever freedom summer winter spring autumn sommer frühling herbst january february monday friday
   secret secretsecret topsecret geheim segreto segredo secreto admin administrator adminadmin
   administrador root toor login passwordpassword changeme changemenow changeit default guest testtest
   testing testpassword test user username useruser hello hellohello helloworld hallo hallohallo bonjour
   hola ciao google facebook instagram whatsapp telegram messenger agency manager managermanager company
   business marketing account chocolate butterfly liverpool chelsea arsenal barcelona realmadrid bayern
   juventus qazwsx qazwsxedc qweasd qweasdzxc abcdefgh abcdefghij abcdefghijkl abcabc abcdabcd blink
   cheese cookie banana orange apple purple flower lovely loveme lovelove babygirl babyboy angel angels
   mustang corvette ferrari mercedes porsche corona covid zaqwsx pokemonpokemon nothing something
   lightsup correcthorsebatterystaple opensesame`
    .split(/\s+/)
    .filter((word) => word !== ''),
);
