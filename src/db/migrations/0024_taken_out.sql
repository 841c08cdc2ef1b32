CREATE TABLE `taken_out` (
	`key` text PRIMARY KEY NOT NULL,
	`version` integer NOT NULL,
	`who` text NOT NULL
);
