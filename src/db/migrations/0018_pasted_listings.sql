CREATE TABLE `pasted_listings` (
	`listing` text PRIMARY KEY NOT NULL,
	`title` text NOT NULL,
	`category` text NOT NULL,
	`price` integer,
	`rating` integer,
	`reviews` integer,
	`who` text NOT NULL,
	`at` integer NOT NULL
);
