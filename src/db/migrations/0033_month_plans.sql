CREATE TABLE `month_plans` (
	`month` text PRIMARY KEY NOT NULL,
	`mills` integer NOT NULL,
	`over` real NOT NULL,
	`who` text NOT NULL,
	`at` integer NOT NULL
);
