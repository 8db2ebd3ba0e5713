SET FOREIGN_KEY_CHECKS = 0;
CREATE TABLE `access_answer` (
  `id` bigint(20) NOT NULL AUTO_INCREMENT,
  `capability` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `says` varchar(10) NOT NULL,
  `role_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `one_answer` (`role_id`,`capability`),
  CONSTRAINT `access_answer_role_id_e1ada96b_fk_access_role_key` FOREIGN KEY (`role_id`) REFERENCES `access_role` (`key`)
) ENGINE=InnoDB AUTO_INCREMENT=340 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_assignment` (
  `id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `scope` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`scope`)),
  `starts` datetime(6) DEFAULT NULL,
  `ends` datetime(6) DEFAULT NULL,
  `given_by` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `given_at` datetime(6) NOT NULL,
  `account_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `group_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `role_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  PRIMARY KEY (`id`),
  KEY `access_assignment_account_id_4468438d_fk_accounts_account_id` (`account_id`),
  KEY `access_assignment_group_id_bdb16b29_fk_accounts_group_key` (`group_id`),
  KEY `access_assignment_role_id_7b08a2d6_fk_access_role_key` (`role_id`),
  CONSTRAINT `access_assignment_account_id_4468438d_fk_accounts_account_id` FOREIGN KEY (`account_id`) REFERENCES `accounts_account` (`id`),
  CONSTRAINT `access_assignment_group_id_bdb16b29_fk_accounts_group_key` FOREIGN KEY (`group_id`) REFERENCES `accounts_group` (`key`),
  CONSTRAINT `access_assignment_role_id_7b08a2d6_fk_access_role_key` FOREIGN KEY (`role_id`) REFERENCES `access_role` (`key`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_changeset` (
  `id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `state` varchar(10) NOT NULL,
  `ended_at` datetime(6) DEFAULT NULL,
  `owner_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `begun_at` datetime(6) NOT NULL,
  `name` varchar(80) NOT NULL,
  PRIMARY KEY (`id`),
  KEY `access_chan_owner_i_b80621_idx` (`owner_id`,`state`),
  CONSTRAINT `access_changeset_owner_id_9d9c1b46_fk_accounts_account_id` FOREIGN KEY (`owner_id`) REFERENCES `accounts_account` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_directgrant` (
  `id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `scope` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`scope`)),
  `starts` datetime(6) DEFAULT NULL,
  `ends` datetime(6) DEFAULT NULL,
  `given_by` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `given_at` datetime(6) NOT NULL,
  `capability` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `says` varchar(10) NOT NULL,
  `account_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `group_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  PRIMARY KEY (`id`),
  KEY `access_directgrant_account_id_4e0efac0_fk_accounts_account_id` (`account_id`),
  KEY `access_directgrant_group_id_82fdb89c_fk_accounts_group_key` (`group_id`),
  CONSTRAINT `access_directgrant_account_id_4e0efac0_fk_accounts_account_id` FOREIGN KEY (`account_id`) REFERENCES `accounts_account` (`id`),
  CONSTRAINT `access_directgrant_group_id_82fdb89c_fk_accounts_group_key` FOREIGN KEY (`group_id`) REFERENCES `accounts_group` (`key`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_fieldrule` (
  `id` bigint(20) NOT NULL AUTO_INCREMENT,
  `type` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `field` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `mode` varchar(10) NOT NULL,
  `table` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`table`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `one_rule_a_field` (`type`,`field`)
) ENGINE=InnoDB AUTO_INCREMENT=5 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_knowncapability` (
  `key` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  PRIMARY KEY (`key`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_limit` (
  `id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `node` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `subject_kind` varchar(10) NOT NULL,
  `subject_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `effect` varchar(5) NOT NULL,
  `applies` varchar(10) NOT NULL,
  `actions` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`actions`)),
  `set_by` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `set_at` datetime(6) NOT NULL,
  PRIMARY KEY (`id`),
  KEY `access_limit_node_f338a8c1` (`node`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_lock` (
  `id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `node` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `field` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `component` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `why` varchar(200) NOT NULL,
  `locked_by` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `locked_at` datetime(6) NOT NULL,
  PRIMARY KEY (`id`),
  KEY `access_lock_node_050c9c08` (`node`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_markupset` (
  `key` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `name` varchar(80) NOT NULL,
  `elements` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`elements`)),
  `schemes` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`schemes`)),
  `version` int(10) unsigned NOT NULL CHECK (`version` >= 0),
  PRIMARY KEY (`key`),
  UNIQUE KEY `name` (`name`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_policyversion` (
  `id` bigint(20) NOT NULL AUTO_INCREMENT,
  `number` bigint(20) unsigned NOT NULL CHECK (`number` >= 0),
  PRIMARY KEY (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_reach` (
  `id` bigint(20) NOT NULL AUTO_INCREMENT,
  `tree` varchar(10) NOT NULL,
  `branches` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`branches`)),
  `account_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `one_reach_a_tree` (`account_id`,`tree`),
  CONSTRAINT `access_reach_account_id_88172d60_fk_accounts_account_id` FOREIGN KEY (`account_id`) REFERENCES `accounts_account` (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_role` (
  `key` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `name` varchar(80) NOT NULL,
  `description` varchar(300) NOT NULL,
  `baseline` varchar(10) NOT NULL,
  `colour` varchar(10) NOT NULL,
  `pattern` varchar(10) NOT NULL,
  `position` int(10) unsigned NOT NULL CHECK (`position` >= 0),
  `components` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`components`)),
  `facets` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`facets`)),
  `version` int(10) unsigned NOT NULL CHECK (`version` >= 0),
  `builds_on_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `shipped` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`shipped`)),
  PRIMARY KEY (`key`),
  UNIQUE KEY `name` (`name`),
  KEY `access_role_builds_on_id_6bc36ca3_fk_access_role_key` (`builds_on_id`),
  CONSTRAINT `access_role_builds_on_id_6bc36ca3_fk_access_role_key` FOREIGN KEY (`builds_on_id`) REFERENCES `access_role` (`key`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_stagedoperation` (
  `id` bigint(20) NOT NULL AUTO_INCREMENT,
  `position` int(10) unsigned NOT NULL CHECK (`position` >= 0),
  `part` varchar(360) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`data`)),
  `was` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`was`)),
  `change_set_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `left` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`left`)),
  `reverse` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`reverse`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `one_operation_a_part` (`change_set_id`,`part`),
  CONSTRAINT `access_stagedoperati_change_set_id_c5d55d4c_fk_access_ch` FOREIGN KEY (`change_set_id`) REFERENCES `access_changeset` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `access_vocabulary` (
  `id` bigint(20) NOT NULL AUTO_INCREMENT,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`data`)),
  `extensions` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`extensions`)),
  PRIMARY KEY (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `accounts_account` (
  `password` varchar(128) NOT NULL,
  `last_login` datetime(6) DEFAULT NULL,
  `id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `email` varchar(254) NOT NULL,
  `name` varchar(120) NOT NULL,
  `language` varchar(10) NOT NULL,
  `telephone` varchar(40) NOT NULL,
  `state` varchar(10) NOT NULL,
  `keyholder` tinyint(1) NOT NULL,
  `last_seen` datetime(6) DEFAULT NULL,
  `created_at` datetime(6) NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `email` (`email`),
  KEY `accounts_account_name_1d0ba595` (`name`),
  KEY `accounts_account_state_dc030036` (`state`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `accounts_group` (
  `key` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `name` varchar(120) NOT NULL,
  `parent_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  PRIMARY KEY (`key`),
  KEY `accounts_group_parent_id_08d19d04_fk_accounts_group_key` (`parent_id`),
  CONSTRAINT `accounts_group_parent_id_08d19d04_fk_accounts_group_key` FOREIGN KEY (`parent_id`) REFERENCES `accounts_group` (`key`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `accounts_guesses` (
  `email` varchar(254) NOT NULL,
  `count` int(10) unsigned NOT NULL CHECK (`count` >= 0),
  `last_at` datetime(6) NOT NULL,
  PRIMARY KEY (`email`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `accounts_membership` (
  `id` bigint(20) NOT NULL AUTO_INCREMENT,
  `account_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `group_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `once_in_a_group` (`account_id`,`group_id`),
  KEY `accounts_membership_group_id_ae835a10_fk_accounts_group_key` (`group_id`),
  CONSTRAINT `accounts_membership_account_id_4cff857d_fk_accounts_account_id` FOREIGN KEY (`account_id`) REFERENCES `accounts_account` (`id`),
  CONSTRAINT `accounts_membership_group_id_ae835a10_fk_accounts_group_key` FOREIGN KEY (`group_id`) REFERENCES `accounts_group` (`key`)
) ENGINE=InnoDB AUTO_INCREMENT=74 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `content_contentversion` (
  `id` bigint(20) NOT NULL AUTO_INCREMENT,
  `number` bigint(20) unsigned NOT NULL CHECK (`number` >= 0),
  `whole` bigint(20) unsigned NOT NULL CHECK (`whole` >= 0),
  PRIMARY KEY (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `content_node` (
  `path` varchar(255) NOT NULL,
  `depth` int(10) unsigned NOT NULL CHECK (`depth` >= 0),
  `numchild` int(10) unsigned NOT NULL CHECK (`numchild` >= 0),
  `id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `type` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `slug` varchar(80) NOT NULL,
  `address` varchar(400) NOT NULL,
  `title` varchar(200) NOT NULL,
  `state` varchar(10) NOT NULL,
  `topics` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`topics`)),
  `values` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`values`)),
  `components` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`components`)),
  `file` varchar(100) DEFAULT NULL,
  `version` int(10) unsigned NOT NULL CHECK (`version` >= 0),
  `saved_at` datetime(6) NOT NULL,
  `author_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `saved_by_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `site_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `listing` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`listing`)),
  `listing_version` int(10) unsigned NOT NULL CHECK (`listing_version` >= 0),
  `changed_in` bigint(20) unsigned NOT NULL CHECK (`changed_in` >= 0),
  PRIMARY KEY (`id`),
  UNIQUE KEY `path` (`path`),
  KEY `content_nod_site_id_c896f4_idx` (`site_id`,`address`),
  KEY `content_node_author_id_a3533ae2_fk_accounts_account_id` (`author_id`),
  KEY `content_node_saved_by_id_c394ddb8_fk_accounts_account_id` (`saved_by_id`),
  KEY `content_node_changed_in_9a4f3f50` (`changed_in`),
  CONSTRAINT `content_node_author_id_a3533ae2_fk_accounts_account_id` FOREIGN KEY (`author_id`) REFERENCES `accounts_account` (`id`),
  CONSTRAINT `content_node_saved_by_id_c394ddb8_fk_accounts_account_id` FOREIGN KEY (`saved_by_id`) REFERENCES `accounts_account` (`id`),
  CONSTRAINT `content_node_site_id_fe92921d_fk_content_site_key` FOREIGN KEY (`site_id`) REFERENCES `content_site` (`key`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `content_post` (
  `id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `text` varchar(2000) NOT NULL,
  `state` varchar(10) NOT NULL,
  `at` datetime(6) NOT NULL,
  `author_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `node_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  PRIMARY KEY (`id`),
  KEY `content_post_author_id_a90965c2_fk_accounts_account_id` (`author_id`),
  KEY `content_post_node_id_1756c864_fk_content_node_id` (`node_id`),
  CONSTRAINT `content_post_author_id_a90965c2_fk_accounts_account_id` FOREIGN KEY (`author_id`) REFERENCES `accounts_account` (`id`),
  CONSTRAINT `content_post_node_id_1756c864_fk_content_node_id` FOREIGN KEY (`node_id`) REFERENCES `content_node` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `content_site` (
  `key` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `name` varchar(120) NOT NULL,
  `tagline` varchar(200) NOT NULL,
  `listing` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`listing`)),
  `listing_version` int(10) unsigned NOT NULL CHECK (`listing_version` >= 0),
  PRIMARY KEY (`key`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `content_topic` (
  `key` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `name` varchar(80) NOT NULL,
  PRIMARY KEY (`key`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `content_version` (
  `id` bigint(20) NOT NULL AUTO_INCREMENT,
  `number` int(10) unsigned NOT NULL CHECK (`number` >= 0),
  `at` datetime(6) NOT NULL,
  `by` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`data`)),
  `node_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `one_version_a_number` (`node_id`,`number`),
  CONSTRAINT `content_version_node_id_a154866f_fk_content_node_id` FOREIGN KEY (`node_id`) REFERENCES `content_node` (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=223 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `django_migrations` (
  `id` bigint(20) NOT NULL AUTO_INCREMENT,
  `app` varchar(255) NOT NULL,
  `name` varchar(255) NOT NULL,
  `applied` datetime(6) NOT NULL,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=15 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `django_session` (
  `session_key` varchar(40) NOT NULL,
  `session_data` longtext NOT NULL,
  `expire_date` datetime(6) NOT NULL,
  PRIMARY KEY (`session_key`),
  KEY `django_session_expire_date_a5c62663` (`expire_date`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `ledger_entry` (
  `number` bigint(20) NOT NULL AUTO_INCREMENT,
  `at` datetime(6) NOT NULL,
  `actor` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `standing_for` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `kind` varchar(40) NOT NULL,
  `summary` varchar(300) NOT NULL,
  `about_kind` varchar(20) NOT NULL,
  `about_id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `changes` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`changes`)),
  PRIMARY KEY (`number`),
  KEY `ledger_entry_at_6d84b228` (`at`),
  KEY `ledger_entry_actor_8ac2fba1` (`actor`),
  KEY `ledger_entry_kind_36a98d3d` (`kind`),
  KEY `ledger_entr_about_k_9663be_idx` (`about_kind`,`about_id`)
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `standin_expectation` (
  `id` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  `question` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`question`)),
  `expect` varchar(5) NOT NULL,
  `reason` varchar(20) NOT NULL,
  `note` varchar(200) NOT NULL,
  `recorded_by` varchar(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
  `recorded_at` datetime(6) NOT NULL,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
INSERT INTO `django_migrations` VALUES (1,'accounts','0001_initial','2026-11-29 03:24:03.727364');
INSERT INTO `django_migrations` VALUES (2,'access','0001_initial','2026-11-29 03:24:03.846020');
INSERT INTO `django_migrations` VALUES (3,'access','0002_beginnings','2026-11-29 03:24:03.861635');
INSERT INTO `django_migrations` VALUES (4,'access','0003_undo_and_keeping','2026-11-29 03:24:03.907138');
INSERT INTO `django_migrations` VALUES (5,'access','0004_shipped_roles','2026-11-29 03:24:03.914065');
INSERT INTO `django_migrations` VALUES (6,'access','0005_extensions_and_markup','2026-11-29 03:24:03.929910');
INSERT INTO `django_migrations` VALUES (7,'access','0006_what_there_is_already','2026-11-29 03:24:04.018622');
INSERT INTO `django_migrations` VALUES (8,'content','0001_initial','2026-11-29 03:24:04.122003');
INSERT INTO `django_migrations` VALUES (9,'content','0002_beginnings','2026-11-29 03:24:04.139882');
INSERT INTO `django_migrations` VALUES (10,'content','0003_search_listings','2026-11-29 03:24:04.189176');
INSERT INTO `django_migrations` VALUES (11,'content','0004_changes_of_single_nodes','2026-11-29 03:24:04.219982');
INSERT INTO `django_migrations` VALUES (12,'ledger','0001_initial','2026-11-29 03:24:04.235863');
INSERT INTO `django_migrations` VALUES (13,'sessions','0001_initial','2026-11-29 03:24:04.242695');
INSERT INTO `django_migrations` VALUES (14,'standin','0001_initial','2026-11-29 03:24:04.249478');
INSERT INTO `standin_expectation` VALUES ('expectation-01','{\"action\": \"edit\", \"node\": \"open-day\", \"account\": \"edda\"}','deny','','The café edits its own events, nobody else\'s','odile','2026-11-29 03:24:07.628459');
INSERT INTO `standin_expectation` VALUES ('expectation-02','{\"action\": \"edit\", \"node\": \"p3-sail-loft\", \"account\": \"ines\"}','allow','','','odile','2026-11-29 03:24:07.628978');
INSERT INTO `standin_expectation` VALUES ('expectation-03','{\"action\": \"publish\", \"node\": \"p3-sail-loft\", \"account\": \"ines\"}','deny','','','odile','2026-11-29 03:24:07.629246');
INSERT INTO `standin_expectation` VALUES ('expectation-04','{\"action\": \"publish\", \"branch\": \"moorings\", \"types\": [\"berth\"], \"holders_of\": \"tenant-editor\"}','deny','','','odile','2026-11-29 03:24:07.629646');
INSERT INTO `standin_expectation` VALUES ('expectation-05','{\"action\": \"see\", \"branch\": \"harbour-office\", \"account\": null}','deny','','','odile','2026-11-29 03:24:07.629909');
INSERT INTO `standin_expectation` VALUES ('expectation-06','{\"action\": \"change-field\", \"branch\": \"notices\", \"types\": [\"notice\"], \"field\": \"hazard\", \"except_members_of\": \"pilots\"}','deny','','Only pilots set the hazard level','odile','2026-11-29 03:24:07.630140');
INSERT INTO `standin_expectation` VALUES ('expectation-07','{\"action\": \"discussion.moderate\", \"branch\": \"notices\", \"account\": \"halla\"}','allow','','','odile','2026-11-29 03:24:07.630366');
INSERT INTO `standin_expectation` VALUES ('expectation-08','{\"action\": \"edit\", \"branch\": \"moorings\", \"account\": \"aiko\"}','deny','','','odile','2026-11-29 03:24:07.630624');
INSERT INTO `standin_expectation` VALUES ('expectation-09','{\"action\": \"edit\", \"node\": \"lantern-night\", \"account\": \"aiko\"}','allow','','','odile','2026-11-29 03:24:07.630900');
INSERT INTO `standin_expectation` VALUES ('expectation-10','{\"action\": \"see\", \"branch\": \"results\", \"members_of\": \"race-office\"}','allow','','','odile','2026-11-29 03:24:07.631151');
INSERT INTO `standin_expectation` VALUES ('expectation-11','{\"action\": \"edit\", \"branch\": \"results\", \"types\": [\"result\"], \"account\": \"mireille\"}','deny','','','odile','2026-11-29 03:24:07.631378');
INSERT INTO `standin_expectation` VALUES ('expectation-12','{\"action\": \"see\", \"branch\": \"harbour-office\", \"holders_of\": \"season-intern\"}','deny','','','odile','2026-11-29 03:24:07.631702');
INSERT INTO `access_policyversion` VALUES (1,3);
INSERT INTO `content_contentversion` VALUES (1,2,2);
