/** Each step is run once, in order, in a transaction of its own. Steps that were released never change. */
export const MIGRATIONS: readonly string[] = [
  `
  create table site (
    id text primary key,
    created_at text not null
  ) strict;

  create table draft (
    site_id text primary key references site (id),
    text text not null,
    version integer not null,
    saved_at text not null
  ) strict;

  create table release (
    site_id text not null references site (id),
    number integer not null,
    text text not null,
    note text not null,
    draft_version integer not null,
    released_at text not null,
    primary key (site_id, number)
  ) strict;

  create trigger release_is_never_changed before update on release
  begin
    select raise(abort, 'a release never changes');
  end;

  create trigger release_is_never_removed before delete on release
  begin
    select raise(abort, 'a release is never removed');
  end;
  `,
  `
  create table pending_edit (
    site_id text not null references site (id),
    changes_id text not null,
    number integer not null,
    edit text not null,
    made_at text not null,
    primary key (site_id, changes_id, number)
  ) strict;
  `,
  `
  create table list_text (
    hash text primary key,
    text text not null
  ) strict;

  create table draft_list (
    site_id text not null references site (id),
    name text not null,
    hash text not null references list_text (hash),
    primary key (site_id, name)
  ) strict;

  create table release_list (
    site_id text not null,
    number integer not null,
    name text not null,
    hash text not null references list_text (hash),
    primary key (site_id, number, name),
    foreign key (site_id, number) references release (site_id, number)
  ) strict;

  create trigger release_list_is_never_changed before update on release_list
  begin
    select raise(abort, 'a release never changes');
  end;

  create trigger release_list_is_never_removed before delete on release_list
  begin
    select raise(abort, 'a release is never removed');
  end;
  `,
  `
  create table session (
    hash text primary key,
    site_id text not null references site (id),
    visitor_id text not null,
    visitor text not null,
    id_token text not null,
    begun_at integer not null,
    seen_at integer not null,
    until integer not null
  ) strict;

  create index session_of_visitor on session (site_id, visitor_id);

  create table miss (
    site_id text not null references site (id),
    address text not null,
    count integer not null,
    first_at integer not null,
    last_at integer not null,
    referrer text,
    primary key (site_id, address)
  ) strict;

  create index miss_by_last on miss (site_id, last_at);

  create table redirect_use (
    site_id text not null references site (id),
    redirect text not null,
    count integer not null,
    last_at integer not null,
    primary key (site_id, redirect)
  ) strict;

  create table traffic (
    site_id text not null references site (id),
    minute integer not null,
    outcome text not null,
    count integer not null,
    primary key (site_id, minute, outcome)
  ) strict;
  `,
  `
  alter table draft add column name text;
  alter table draft add column errors integer;
  `,
  `
  alter table site add column deleted_at text;

  drop trigger release_is_never_removed;

  create trigger release_is_never_removed before delete on release
  when (select deleted_at from site where id = old.site_id) is null
  begin
    select raise(abort, 'a release is never removed');
  end;

  drop trigger release_list_is_never_removed;

  create trigger release_list_is_never_removed before delete on release_list
  when (select deleted_at from site where id = old.site_id) is null
  begin
    select raise(abort, 'a release is never removed');
  end;
  `,
  `
  alter table release add column override text;
  `,
  `
  create table draft_version (
    site_id text not null references site (id),
    version integer not null,
    text any not null,
    says text not null,
    saved_at text not null,
    primary key (site_id, version)
  ) strict;

  create table draft_version_list (
    site_id text not null,
    version integer not null,
    name text not null,
    hash text not null references list_text (hash),
    primary key (site_id, version, name),
    foreign key (site_id, version) references draft_version (site_id, version)
  ) strict;

  insert into draft_version select site_id, version, text, '[]', saved_at from draft;
  insert into draft_version_list
    select draft.site_id, draft.version, draft_list.name, hash from draft_list join draft using (site_id);

  create table scheduled_release (
    site_id text primary key references site (id),
    text text not null,
    note text not null,
    override text,
    draft_version integer not null,
    takes_effect_at text not null,
    scheduled_at text not null
  ) strict;

  create table scheduled_release_list (
    site_id text not null references scheduled_release (site_id),
    name text not null,
    hash text not null references list_text (hash),
    primary key (site_id, name)
  ) strict;

  alter table release add column restores integer;
  alter table release add column scheduled_for text;
  alter table release add column says text;
  `,
  `
  create table probe_run (
    site_id text not null references site (id),
    number integer not null,
    website text not null,
    release integer not null,
    agreed integer not null,
    differed integer not null,
    untried text not null,
    pages integer,
    ended_by text,
    failure text,
    started_at text not null,
    ended_at text not null,
    primary key (site_id, number)
  ) strict;

  create table probe_difference (
    id integer primary key,
    site_id text not null references site (id),
    kind text not null,
    address text not null,
    visitor text not null,
    step text not null,
    expected text not null,
    found text not null,
    effect text not null,
    first_at text not null,
    last_at text not null,
    ended_at text
  ) strict;

  create unique index probe_difference_open on probe_difference (site_id, kind, address, visitor)
    where ended_at is null;

  create table webhook_message (
    id text primary key,
    site_id text not null references site (id),
    body text not null,
    made_at text not null,
    attempts integer not null default 0,
    next_at text,
    delivered_at text,
    answer text
  ) strict;

  create index webhook_message_next on webhook_message (next_at) where next_at is not null;
  `,
  `
  create table shop_event (
    site_id text not null references site (id),
    shop text not null,
    id text not null,
    type text not null,
    at integer not null,
    purchase text not null,
    product text,
    valid_from integer,
    valid_until integer,
    is_partly integer not null,
    email text,
    visitor text,
    former_email text,
    received_at integer not null,
    primary key (shop, id)
  ) strict;

  create index shop_event_of_purchase on shop_event (site_id, shop, purchase);
  create index shop_event_of_email on shop_event (site_id, email);
  create index shop_event_of_former_email on shop_event (site_id, former_email);
  create index shop_event_of_visitor on shop_event (site_id, visitor);

  create trigger shop_event_is_never_removed before delete on shop_event
  when (select deleted_at from site where id = old.site_id) is null
  begin
    select raise(abort, 'an event is never removed');
  end;

  create table rejected_event (
    site_id text not null references site (id),
    shop text not null,
    id text not null,
    body text not null,
    problem text not null,
    received_at integer not null,
    primary key (shop, id)
  ) strict;
  `,
  // The events of a purchase lie together: they are read at once.
  `
  create table told_event (
    site_id text not null references site (id),
    shop text not null,
    purchase text not null,
    id text not null,
    type text not null,
    at integer not null,
    product text,
    valid_from integer,
    valid_until integer,
    is_partly integer not null,
    email text,
    visitor text,
    former_email text,
    received_at integer not null,
    note text,
    body text,
    primary key (site_id, shop, purchase, id)
  ) strict, without rowid;

  insert into told_event select site_id, shop, purchase, id, type, at, product, valid_from, valid_until,
    is_partly, email, visitor, former_email, received_at, null, null from shop_event;
  drop trigger shop_event_is_never_removed;
  drop table shop_event;
  alter table told_event rename to shop_event;

  create unique index shop_event_of_id on shop_event (shop, id);
  create index shop_event_of_email on shop_event (site_id, email) where email is not null;
  create index shop_event_of_former_email on shop_event (site_id, former_email)
    where former_email is not null;
  create index shop_event_of_visitor on shop_event (site_id, visitor) where visitor is not null;
  create index shop_event_of_product on shop_event (site_id, product) where product is not null;
  create index shop_event_received on shop_event (site_id, received_at);
  create index shop_event_of_buyers on shop_event (site_id) where purchase = '';

  create trigger shop_event_is_never_removed before delete on shop_event
  when (select deleted_at from site where id = old.site_id) is null
  begin
    select raise(abort, 'an event is never removed');
  end;
  `,
  // What is told of each buyer, as JSON: `buyer-events.ts` fills it from the events.
  `
  create table buyer (
    site_id text not null references site (id),
    name text not null,
    events text not null,
    primary key (site_id, name)
  ) strict, without rowid;
  `,
  // The same shop can serve another site later: its events count there too. Erased names are known by what is in
  // `erasure` alone, which cannot be read back.
  `
  drop index shop_event_of_id;
  create unique index shop_event_of_id on shop_event (site_id, shop, id);

  create table rejected (
    site_id text not null references site (id),
    shop text not null,
    id text not null,
    body text not null,
    problem text not null,
    received_at integer not null,
    primary key (site_id, shop, id)
  ) strict;
  insert into rejected select site_id, shop, id, body, problem, received_at from rejected_event;
  drop table rejected_event;
  alter table rejected rename to rejected_event;

  create table erasure (
    site_id text not null references site (id),
    shop text not null,
    name text not null,
    at integer not null,
    primary key (site_id, name, at, shop)
  ) strict, without rowid;

  create table secret (
    name text primary key,
    value blob not null
  ) strict;
  `,
  // A number is never given twice: a page that was loaded before could drop another edit by it. Edits that do not tell
  // what they replace could undo what others did; they become ones that replace nothing.
  `
  create table pending (
    number integer primary key autoincrement,
    site_id text not null references site (id),
    changes_id text not null,
    edit text not null,
    made_at text not null
  ) strict;
  insert into pending (site_id, changes_id, edit, made_at)
    select site_id, changes_id,
      case when edit ->> 'do' in ('put', 'remove') then json_insert(edit, '$.was', null) else edit end,
      made_at
    from pending_edit order by site_id, changes_id, number;
  drop table pending_edit;
  alter table pending rename to pending_edit;
  create index pending_edit_of_site on pending_edit (site_id, changes_id);
  `,
];
