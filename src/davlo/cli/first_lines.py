"""What the first example of each command's help prints first, as docs/write_help.py runs it."""

from __future__ import annotations

FIRST_LINES: dict[str, tuple[str, ...]] = {
    "davlo demo": (
        "Wrote the site of the Quillmere Botanic Garden to quillmere: davlo.yaml, de…",
        "# Take stock: which pages are there?",
    ),
    "davlo start my-site --name 'My museum' --url https://museum.example --language en": (
        "Wrote a site of 7 pages to my-site:",
        "  davlo.yaml         what your site is made of, and what each page gets; no…",
    ),
    "davlo tree": (
        "page                title                          type",
        "/                   Quillmere Botanic Garden       landing",
    ),
    "davlo show /visit/tickets": ("/visit/tickets  Tickets", "Page, live, under /visit, en, tags: prices"),
    "davlo list": (
        "kind        declared  names",
        "layouts            5  plain, two-column, three-column, open, record-page",
    ),
    "davlo menus": ("menu in en, as a visitor sees it", "label                     leads to"),
    "davlo picture /visit/tickets --to tickets.png": ("wrote tickets.png",),
    "davlo why /visit/tickets sidebar.right": (
        "sidebar.right of /visit/tickets is visit-planning",
        "Weakest first; the one that wins is marked with >",
    ),
    "davlo check": (
        "error    bidegewo  band.footer is locked to footer-legal by everywhere (dav…",
        "                   stronger statement has no effect on 5 pages [/press/pict…",
    ),
    "davlo access": (
        "On how many of 158 pages each may act:",
        "who             view  edit  move  create  delete  grant  groups",
    ),
    "davlo compare HEAD~1": (
        "From HEAD~1 to the files here",
        "23 pages look different, 23 pages change; nobody gains or loses anything",
    ),
    "davlo declare sidebar kids blocks=search-box,opening-times": (
        "declare the sidebar kids",
        "no page changes; nobody gains or loses anything",
    ),
    "davlo declare layout leaflet based_on=plain areas+=right": (
        "declare the layout leaflet",
        "no page changes; nobody gains or loses anything",
    ),
    "davlo declare theme dusk areas=masthead,top-links,content area_names.menu=top-links": (
        "declare the theme dusk",
        "no page changes; nobody gains or loses anything",
    ),
    "davlo declare look slim based_on=usual whole.width=22%": (
        "declare the look slim",
        "no page changes; nobody gains or loses anything",
    ),
    "davlo declare band footer-kids fits=footer blocks=legal-line": (
        "declare the band footer-kids",
        "no page changes; nobody gains or loses anything",
    ),
    'davlo declare block hours kind=text text="Open daily 10 to 17"': (
        "declare the block hours",
        "no page changes; nobody gains or loses anything",
    ),
    "davlo declare preset calm sidebar.right=none heading.show=no": (
        "declare the preset calm",
        "no page changes; nobody gains or loses anything",
    ),
    "davlo declare type workshop based_on=event label=Workshop": (
        "declare the type workshop",
        "no page changes; nobody gains or loses anything",
    ),
    'davlo declare setting sponsor kind=text label="Who pays for it"': (
        "declare the setting sponsor",
        "no page changes; nobody gains or loses anything",
    ),
    "davlo declare rule 'Campaign pages show what to do' --except in_branch=/campaigns/spring": (
        'change the rule "Campaign pages show what to do"',
        "2 pages look different, 2 pages change; nobody gains or loses anything",
    ),
    "davlo declare guarantee 'The shop stays open' --when in_branch=/visit/shop may.everyone=view": (
        'guarantee "The shop stays open"',
        "no page changes; nobody gains or loses anything",
    ),
    "davlo declare person noor.haddad --group staff": (
        "declare the person noor.haddad; declare the group staff",
        "no page changes; nobody gains or loses anything",
    ),
    "davlo declare group guides members=ida.marsh,rowan.pike": (
        "declare the group guides",
        "no page changes; nobody gains or loses anything",
    ),
    "davlo declare role proofing actions=view,edit": (
        "declare the role proofing",
        "no page changes; nobody gains or loses anything",
    ),
    "davlo declare viewpoint /visit/tickets as=ida.marsh": (
        "look at /visit/tickets as ida.marsh after every change",
        "no page changes; nobody gains or loses anything",
    ),
    "davlo declare site languages+=de menu.max_entries=8": (
        "set the site's languages; set the site's max entries",
        "no page changes; nobody gains or loses anything",
    ),
    "davlo set sidebar.right=main --below /visit": (
        "set sidebar.right to main below /visit",
        "23 pages look different, 23 pages change; nobody gains or loses anything",
    ),
    "davlo unset sidebar.right --below /visit": (
        "take sidebar.right away below /visit",
        "23 pages look different, 23 pages change; nobody gains or loses anything",
    ),
    "davlo page add /visit/picnic --title Picnic": (
        "add the page /visit/picnic",
        "no page changes, 1 page is new; nobody gains or loses anything",
    ),
    "davlo page add /visit/picnic --title Picnic --type event": (
        "add the page /visit/picnic",
        "no page changes, 1 page is new; nobody gains or loses anything",
    ),
    "davlo page set /visit/maps title=Maps": (
        "set the title of /visit/maps to Maps",
        "1 page looks different, no value changes; nobody gains or loses anything; 1…",
    ),
    "davlo page move /visit/cafe /cafe": (
        "move /visit/cafe to /cafe",
        "147 pages look different, 3 pages change; nobody gains or loses anything; 3…",
    ),
    "davlo page drop /visit/thanks": (
        "drop /visit/thanks",
        "no page changes, 1 page goes; nobody gains or loses anything",
    ),
    "davlo page refresh --from pages-of-today.csv": (
        "bring the page list up to date: add 1 page",
        "11 pages look different, no value changes, 1 page is new; nobody gains or l…",
    ),
    "davlo page restamp": (
        "bring blocks.content of 2 pages up to date",
        "2 pages look different, 2 pages change; nobody gains or loses anything",
    ),
    "davlo rename sidebar main usual": (
        "rename the sidebar main to usual",
        "40 pages look different, 52 pages change; nobody gains or loses anything",
    ),
    "davlo mend baliwehi": (
        "warning  no-such-area  sidebar.left  baliwehi",
        "  the page itself (davlo.yaml:81) sets sidebar.left to visit-planning, but …",
    ),
    "davlo condense": (
        "10 statements of 1 setting would become 7; every page keeps every value",
        "  setting             statements now  then",
    ),
    "davlo undo": (
        "taking back write 1 (2026-11-30T09:15): set sidebar.right to main below /vi…",
        "23 pages look different, 23 pages change; nobody gains or loses anything",
    ),
    "davlo estate sites": (
        "site                pages  errors  warnings  exceptions  differs from the h…",
        "branches/fernhurst  9      1       0         0           sitemap.changefreq",
    ),
    "davlo estate check": (
        "level    finding                setting           sites  pages  in",
        "error    area-missing-in-theme  layout.theme      1      9      garden",
    ),
    "davlo estate export --to values": ("wrote 3 files, 174 pages, into values",),
    "davlo estate compare HEAD~1": (
        "branches/fernhurst: 9 pages change; nobody gains or loses anything",
        "  Why values differ: title.limit: ../../house-style.yaml:7 says 60, locked …",
    ),
    "davlo estate report --to reports": (
        "wrote index.html and 3 reports into reports",
        "open index.html in a browser: it needs no network",
    ),
    "davlo estate set title.limit=55": (
        "lock title.limit to 55 on every page of every site",
        "branches/fernhurst: 9 pages change; nobody gains or loses anything",
    ),
    "davlo estate unset title.limit": (
        "take title.limit away from every page of every site",
        "branches/fernhurst: 9 pages change; nobody gains or loses anything",
    ),
    "davlo estate declare block sisters kind=text text='See our other gardens'": (
        "declare the block sisters",
        "branches/fernhurst: no page changes; nobody gains or loses anything",
    ),
    "davlo estate undo": ("taking back: lock title.limit to 60 on every page of every site", "  house-style.yaml"),
    "davlo sitemap": ("132 of 158 pages are in the sitemap.", "Why the others are out (the first reason of each):"),
    "davlo crawler-files --to public": (
        "3 files for public, not published by Davlo before:",
        "  file                    what  details",
    ),
    "davlo announce": ("132 addresses new: nothing was told yet", "  new  https://quillmere.example/"),
    "davlo export": (
        "path,title,type,language,status,heading.show,heading.text,title.pattern,tit…",
        "/,Quillmere Botanic Garden,landing,en,live,no,{title},{site},60,yes,{title}…",
    ),
    "davlo report --to report.html": ("wrote report.html", "open it in a browser: it needs no network"),
    "davlo schema --to davlo.schema.json": ("wrote davlo.schema.json",),
}
