//! Results as JUnit XML, as build servers read it.

use super::checked_mold::CheckedMold;
use super::findings::{Sources, command};
use quick_junit::{NonSuccessKind, Report, SerializeError, TestCase, TestCaseStatus, TestSuite};

/// Returns a suite for each mold, with a case for each finding; warnings fail if the check is strict. A mold without
/// a finding has one case, which passes.
pub fn of_check(molds: &[CheckedMold], is_strict: bool) -> Result<String, SerializeError> {
    let mut report = Report::new("tinmold check");
    for mold in molds {
        let mut suite = TestSuite::new(mold.address.as_str());
        let mut sources = Sources::new(&mold.package);
        for reported in &mold.findings {
            let finding = &reported.finding;
            let position = finding.position(sources.of(&finding.file));
            let place = format!("{}:{}:{}", finding.file, position.line, position.column);
            let fails = finding.is_error() || is_strict;
            let mut status = match fails {
                true => TestCaseStatus::non_success(NonSuccessKind::Failure),
                false => TestCaseStatus::success(),
            };
            let shown = reported
                .answers
                .as_ref()
                .map(|set| format!("\nwith {set}\nshow it: {}", command(reported, set, &mold.address)));
            let text = format!("{place}: {}\n{}{}", finding.message, finding.help, shown.unwrap_or_default());
            if fails {
                status.set_type(finding.code.as_str()).set_message(finding.message.as_str());
                status.set_description(text.as_str());
            }
            let mut case = TestCase::new(format!("{} {place}", finding.code), status);
            case.set_classname(mold.address.as_str());
            if !fails {
                case.set_system_out(text.as_str());
            }
            suite.add_test_case(case);
        }
        if mold.findings.is_empty() {
            let mut case = TestCase::new("clean", TestCaseStatus::success());
            case.set_classname(mold.address.as_str());
            suite.add_test_case(case);
        }
        report.add_test_suite(suite);
    }
    report.to_string()
}
