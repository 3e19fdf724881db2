/** What stands on the pages of the website of Merrow Point, by address. */

const LESSONS = [
  'Listening before looking',
  'Wren and dunnock',
  'The three thrushes',
  'Warblers of the reed bed',
  'Chiffchaff or willow warbler',
  'Larks over the dunes',
  'Waders on the mud',
  'Gulls by ear',
  'Owls after dark',
  'Calls in flight',
  'A dawn chorus, taken apart',
  'Writing down what you heard',
];

const JOURNAL = {
  'first-swallow': [
    'First swallow',
    'On the second of April, low over the north pool, at ten past six.',
  ],
  'storm-week': [
    'A week of storms',
    'Little auks at the point, and one roof less on the south hide.',
  ],
  'new-scrape': ['The new scrape', 'Three avocets found it before the fence was up.'],
};

const COUNTS = { 2024: 201, 2025: 214, 2026: 208 };

const list = (links) =>
  `<ul>${links.map(([address, title]) => `<li><a href="${address}">${title}</a></li>`).join('')}</ul>`;

/** Pages that are always the same: title, and what stands below it. */
export const PAGES = {
  '/': [
    'Merrow Point Bird Observatory',
    `<p>Two hides, a reed bed and forty years of counting birds at the end of the road.</p>
<section data-kleidon-part="latest-photos"><h2>Latest photos</h2><p>A bittern at dusk, by one of our members.</p></section>
<section data-kleidon-part="crew-notices"><h2>For the crew</h2><p>The north hide has a new lock. The key is where it always is.</p></section>`,
  ],
  '/about': [
    'About us',
    '<p>We have rung, counted and written down the birds of the point since 1983.</p>',
  ],
  '/visit': [
    'Plan a visit',
    `<p>Open from dawn to dusk. The last mile is a track.</p>${list([
      ['/visit/hides', 'The hides'],
      ['/tides', 'Tide tables'],
    ])}`,
  ],
  '/visit/hides': [
    'The hides',
    list([
      ['/visit/hides/north', 'North hide'],
      ['/visit/hides/south', 'South hide'],
    ]),
  ],
  '/visit/hides/north': ['North hide', '<p>Looks over the pool. Twelve seats, a ramp.</p>'],
  '/visit/hides/south': [
    'South hide',
    '<p>Looks over the mud. Best two hours before high water.</p>',
  ],
  '/sightings': [
    'Recent sightings',
    `<p>Whimbrel, 14, flying north. Spoonbill, 1, asleep.</p>${list(Object.keys(COUNTS).map((year) => [`/sightings/${year}`, year]))}`,
  ],
  '/journal': [
    'Journal',
    list(Object.entries(JOURNAL).map(([slug, [title]]) => [`/journal/${slug}`, title])),
  ],
  '/join': ['Join us', '<p>Members get the newsletter, the photos and the field guide.</p>'],
  '/register': ['Register', '<p>Tell us your name and an address for letters.</p>'],
  '/terms': ['Terms of use', '<p>Be kind to the birds, the hides and each other.</p>'],
  '/privacy': ['Privacy', '<p>We write down birds, not people.</p>'],
  '/not-found': [
    'Nothing here',
    '<p>It may have flown. Try the menu above, or the <a href="/journal">journal</a>.</p>',
  ],
  '/crew-only': ['For the crew', '<p>The ringing log is for ringers and wardens.</p>'],
  '/members': [
    "Members' room",
    list([
      ['/members/newsletter', 'Newsletter'],
      ['/members/photos', 'Photos by members'],
    ]),
  ],
  '/members/newsletter': ['Newsletter', '<p>Autumn: the roof fund, and who saw the wryneck.</p>'],
  '/members/photos': [
    'Photos by members',
    '<p>Bittern, dusk. Sanderling, running. Wren, angry.</p>',
  ],
  '/crew': ['Crew room', '<p>Kettle on the left. Logbook on the right.</p>'],
  '/crew/rota': [
    'Rota',
    `<p>Saturday: Vik, north hide. Sunday: nobody yet.</p>
<form method="post"><label>Sunday <input name="sunday"></label> <button>Write down</button></form>`,
  ],
  '/crew/rota/swaps': ['Swaps between crew', '<p>Vik would give a Saturday for a Wednesday.</p>'],
  '/crew/hide-keys': [
    'Where the keys are',
    '<p>North: under the third stone. South: ask Wren.</p>',
  ],
  '/crew/ringing-log': [
    'Ringing log',
    list([
      [`/crew/ringing-log/118`, 'Entry 118'],
      ['/crew/ringing-log/119', 'Entry 119'],
    ]),
  ],
  '/trustees': ['Trustees', list([['/trustees/minutes', 'Minutes']])],
  '/trustees/minutes': ['Minutes', list([['/trustees/minutes/2025', '2025']])],
  '/shop': [
    'Shop',
    list([
      ['/shop/hide-permit', 'Hide permit'],
      ['/shop/field-guide', 'Field guide'],
      ['/shop/song-course', 'Song course'],
    ]),
  ],
  '/shop/hide-permit': [
    'Hide permit',
    '<p>A year of booking your own seat. <a href="/checkout">Buy it</a></p>',
  ],
  '/shop/field-guide': [
    'Field guide',
    '<p>Two chapters, and growing. <a href="/checkout">Buy it</a></p>',
  ],
  '/shop/song-course': [
    'Song course',
    '<p>Twelve lessons by ear. <a href="/checkout">Buy it</a></p>',
  ],
  '/checkout': ['Checkout', '<p>The till is at the visitor centre today.</p>'],
  '/permit': [
    'Your permit',
    list([
      ['/permit/booking', 'Book a hide'],
      ['/permit/map.pdf', 'Map of the hides'],
    ]),
  ],
  '/permit/booking': ['Book a hide', '<p>Both hides are free on Thursday.</p>'],
  '/field-guide': [
    'Field guide',
    list([
      ['/field-guide/waders', 'Waders'],
      ['/field-guide/warblers', 'Warblers'],
    ]),
  ],
  '/field-guide/waders': ['Waders', '<p>Long legs, long bill, wet feet.</p>'],
  '/field-guide/warblers': ['Warblers', '<p>Small, brown, and gone when you look.</p>'],
  '/song-course': [
    'Song course',
    list(LESSONS.map((title, i) => [`/song-course/${i + 1}`, title])),
  ],
  '/spring-count': ['Spring count', '<p>Every Sunday from March to May, at first light.</p>'],
  '/apply': ['Apply to help', '<p>We still have to write this page.</p>'],
  '/staff': ['Staff sign-in', '<p>Through the door.</p>'],
  '/staff/door': ['Staff door', '<p>It is open.</p>'],
};

/** Addresses with something in them that the page is about. Null where there is no such page. */
export const FAMILIES = [
  [
    /^\/sightings\/(\d{4})$/,
    (year) => COUNTS[year] && [`Sightings of ${year}`, `<p>${COUNTS[year]} species.</p>`],
  ],
  [
    /^\/journal\/([\w-]+)$/,
    (slug) => JOURNAL[slug] && [JOURNAL[slug][0], `<p>${JOURNAL[slug][1]}</p>`],
  ],
  [
    /^\/crew\/ringing-log\/(\d+)$/,
    (entry) => [`Entry ${entry}`, '<p>Wren, adult, ring worn but readable.</p>'],
  ],
  [
    /^\/trustees\/minutes\/(\d{4})$/,
    (year) => [`Minutes of ${year}`, '<p>Agreed: a new roof. Not agreed: its colour.</p>'],
  ],
  [
    /^\/song-course\/(\d+)$/,
    (lesson) => LESSONS[lesson - 1] && [`Lesson ${lesson}`, `<p>${LESSONS[lesson - 1]}.</p>`],
  ],
  [
    /^\/my\/([\w-]+)$/,
    (person) => [`Pages of ${person}`, list([[`/my/${person}/report.pdf`, 'Ringing report']])],
  ],
];

export const FILES = [
  /^\/crew\/handbook\.pdf$/,
  /^\/permit\/map\.pdf$/,
  /^\/my\/[\w-]+\/report\.pdf$/,
];

/** What one person saw, by the query of an old address. */
export const activityOf = (person) => [
  `Sightings of ${person}`,
  `<p>${person} has written down 14 birds this month.</p>`,
];
