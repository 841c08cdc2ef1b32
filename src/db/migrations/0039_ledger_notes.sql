CREATE TABLE `ledger_notes` (
	`key` text PRIMARY KEY NOT NULL,
	`what` text NOT NULL,
	`text` text NOT NULL,
	`state` text NOT NULL,
	`reason` text DEFAULT '' NOT NULL,
	`who` text NOT NULL,
	`at` integer NOT NULL
);
