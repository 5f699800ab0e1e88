create table notes (
    id bigint generated always as identity primary key,
    text varchar(2000) not null,
    created timestamp(3) with time zone not null
);
