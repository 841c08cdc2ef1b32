CREATE TABLE `pictures` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`type` text NOT NULL,
	`width` integer NOT NULL,
	`height` integer NOT NULL,
	`content` blob NOT NULL,
	`who` text NOT NULL,
	`at` integer NOT NULL
);
