CREATE TABLE `causes` (
	`id` integer PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`of` text NOT NULL,
	`reason` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `causes_once` ON `causes` (`kind`,`of`,`reason`);--> statement-breakpoint
CREATE TABLE `plans_replaced` (
	`dispatch` integer NOT NULL,
	`planogram` text NOT NULL,
	`plan` blob,
	PRIMARY KEY(`dispatch`, `planogram`)
);
--> statement-breakpoint
ALTER TABLE `change_log` ADD `about` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `basket` ADD `cause` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `dispatch_changes` ADD `cause` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
INSERT INTO `causes` (`kind`, `of`, `reason`)
SELECT DISTINCT CASE
    WHEN `source` = 'planogram' AND `reason` LIKE 'In step with%' THEN 'step'
    WHEN `source` = 'planogram' THEN 'planogram'
    WHEN `source` = 'targets' THEN 'aim'
    WHEN `source` = 'file' THEN 'file'
    WHEN `source` = 'records' THEN 'records'
    WHEN `source` = 'dispatch' THEN 'take-back'
    ELSE 'act' END, '', `reason` FROM `basket`;--> statement-breakpoint
UPDATE `basket` SET `cause` = (SELECT `id` FROM `causes` WHERE `causes`.`reason` = `basket`.`reason` AND `causes`.`kind` = CASE
    WHEN `basket`.`source` = 'planogram' AND `basket`.`reason` LIKE 'In step with%' THEN 'step'
    WHEN `basket`.`source` = 'planogram' THEN 'planogram'
    WHEN `basket`.`source` = 'targets' THEN 'aim'
    WHEN `basket`.`source` = 'file' THEN 'file'
    WHEN `basket`.`source` = 'records' THEN 'records'
    WHEN `basket`.`source` = 'dispatch' THEN 'take-back'
    ELSE 'act' END);--> statement-breakpoint
UPDATE `jobs` SET `input` = json_remove(json_set(`input`, '$.intent.action', 'item-bid', '$.intent.op',
    json_object('how', 'percent', 'percent', json_extract(`input`, '$.intent.percent'))), '$.intent.percent')
WHERE `kind` = 'account-edit' AND `state` IN ('waiting', 'running') AND json_extract(`input`, '$.intent.action') = 'item-bid-change';--> statement-breakpoint
UPDATE `jobs` SET `input` = json_remove(json_set(`input`, '$.intent.op',
    json_object('how', 'set', 'mills', json_extract(`input`, '$.intent.bid'))), '$.intent.bid')
WHERE `kind` = 'account-edit' AND `state` IN ('waiting', 'running') AND json_extract(`input`, '$.intent.action') = 'item-bid'
    AND json_extract(`input`, '$.intent.bid') IS NOT NULL;
