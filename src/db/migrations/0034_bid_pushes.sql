CREATE TABLE `bid_pushes` (
	`key` text PRIMARY KEY NOT NULL,
	`of` text NOT NULL,
	`bid` integer NOT NULL,
	`back` integer NOT NULL,
	`until` text NOT NULL,
	`who` text NOT NULL,
	`at` integer NOT NULL
);
