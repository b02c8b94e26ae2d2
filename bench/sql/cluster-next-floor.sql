-- The least on a cluster: read the file, join every row to its member, compare every attribute, write nothing.
use dw.${schema};
create temporary view delivered (guest_no bigint, guest_name string, email string, phone string, street string, born_on date,
  town string, country string, membership string, nights int, joined_on date, rating decimal(4,1), tours int)
using csv options (path 'file://${csv}', header 'true', mode 'FAILFAST');
select count(*)
from delivered as s
left join dim_guest as d on d.guest_no = s.guest_no and d.is_current
where d.guest_key is null
  or s.guest_name is distinct from d.guest_name or s.email is distinct from d.email or s.phone is distinct from
    d.phone or s.street is distinct from d.street or s.nights is distinct from d.nights or s.rating is distinct
    from d.rating or s.town is distinct from d.town or s.country is distinct from d.country or s.membership is
    distinct from d.membership or s.tours is distinct from d.tours;
