-- Facts on a server as an expert would write them: members are made for guests whom nobody knows, then one star join.
set jit = off;
set work_mem = '128MB';
create temp table staged (stay_no bigint, hut_no bigint, guest_no bigint, tour_no bigint, night_on date, guests integer, paid decimal(10,2));
\copy staged from '${nights}' with (format csv, header true);
analyze staged;
-- A grain that stands twice would count a stay twice: division by zero stops the load.
select 1 / (case when count(*) > 0 then 0 else 1 end)
from (select stay_no from staged group by stay_no having count(*) > 1) as twice;
begin;
insert into dim_guest (guest_key, guest_no, valid_from, valid_to, is_current, version, is_deleted, row_origin,
  inserted_at, updated_at, inserted_by, updated_by)
select (select max(guest_key) from dim_guest) + row_number() over (order by guest_no), guest_no, date '2026-03-03', date '9999-12-31',
  true, 1, false, 'placeholder', localtimestamp, localtimestamp, 2, 2
from (select distinct s.guest_no from staged as s
  where s.guest_no is not null and not exists (select 1 from dim_guest as g where g.guest_no = s.guest_no)) as unknown;
analyze dim_guest;
create table fact_night_stay as
select s.stay_no, coalesce(h.hut_key, -1) as hut_key, coalesce(g.guest_key, -1) as guest_key,
  coalesce(t.tour_key, -1) as tour_key, coalesce(n.calendar_key, -1) as night_key, s.guests, s.paid,
  localtimestamp as inserted_at, localtimestamp as updated_at, cast(2 as bigint) as inserted_by, cast(2 as bigint) as updated_by
from staged as s
left join dim_hut as h on h.hut_no = s.hut_no and s.night_on >= h.valid_from and s.night_on < h.valid_to
left join dim_guest as g on g.guest_no = s.guest_no and g.is_current
left join dim_tour as t on t.tour_no = s.tour_no and t.is_current
left join dim_calendar as n on n.day = s.night_on;
-- A lookup that finds two versions would count a stay twice.
select 1 / (case when (select count(*) from fact_night_stay) <> (select count(*) from staged) then 0 else 1 end);
create unique index fact_night_stay_grain on fact_night_stay (stay_no);
commit;
