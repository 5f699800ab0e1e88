//! Views on lists.

use crate::finding::Code;
use crate::item::Item;
use crate::scope::Scope;
use crate::trouble::{Trouble, trouble};
use crate::view::View;

/// Applies the view to a list.
pub(crate) fn of_list<'r>(
    view: View,
    list: &Item<'r>,
    arguments: &[Item<'r>],
    scope: &Scope,
) -> Result<Item<'r>, Box<Trouble>> {
    let length = list.len();
    let number = || arguments.first().map_or(0, Item::integer);
    let count = || {
        usize::try_from(number())
            .map_err(|_| trouble(Code::BadArgument, format!("{} elements cannot be counted off", number())))
    };
    let outside = |asked: String| trouble(Code::OutsideList, format!("{asked} of {length} elements"));
    Ok(match view {
        View::ListLen => Item::Integer(i64::try_from(length).unwrap_or(i64::MAX)),
        View::ListEmpty => Item::Flag(length == 0),
        View::ListHas => {
            Item::Flag(arguments.first().is_some_and(|wanted| list.elements().any(|e| e.same(wanted, scope))))
        }
        View::First => list.element(0).ok_or_else(|| outside("there is no first".into()))?,
        View::Last => {
            list.element(length.wrapping_sub(1)).ok_or_else(|| outside("there is no last".into()))?
        }
        View::At => usize::try_from(number())
            .ok()
            .and_then(|at| list.element(at))
            .ok_or_else(|| outside(format!("there is no element {} (counting from 0)", number())))?,
        View::Take => Item::List(list.elements().take(count()?).collect()),
        View::Drop => Item::List(list.elements().skip(count()?).collect()),
        View::Sorted => {
            let mut all: Vec<_> = list.elements().collect();
            all.sort_by(|a, b| a.order(b, scope));
            Item::List(all.into())
        }
        View::Unique => unique(list, scope),
        _ => {
            let between = arguments.first().map_or("", |text| text.text(scope));
            let mut out = String::new();
            for (at, element) in list.elements().enumerate() {
                if at > 0 {
                    out.push_str(between);
                }
                push(&mut out, &element, scope);
            }
            Item::made(out)
        }
    })
}

/// Returns the first of each that are equal, in their order.
fn unique<'r>(list: &Item<'r>, scope: &Scope) -> Item<'r> {
    let all: Vec<_> = list.elements().collect();
    let mut order: Vec<usize> = (0..all.len()).collect();
    order.sort_by(|a, b| all[*a].order(&all[*b], scope).then(a.cmp(b)));
    order.dedup_by(|next, kept| all[*next].same(&all[*kept], scope));
    order.sort_unstable();
    Item::List(order.into_iter().map(|at| all[at].clone()).collect())
}

fn push(out: &mut String, item: &Item<'_>, scope: &Scope) {
    match item {
        Item::Integer(number) => out.push_str(itoa::Buffer::new().format(*number)),
        Item::Flag(flag) => out.push_str(if *flag { "true" } else { "false" }),
        text => out.push_str(text.text(scope)),
    }
}
