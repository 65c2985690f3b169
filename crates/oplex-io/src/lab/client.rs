//! One stand-in client.

use std::time::{Duration, Instant};

use oplex::family::{Both, Family};
use oplex::lab::{Client, Event, Output, Packet};
use tokio::time::sleep_until;

use super::sockets::{End, Sockets};
use super::{Interface, LabError, run};

/// What happens to a client.
#[derive(Debug, Clone, Copy)]
pub enum Activity<'s> {
    /// It sends something.
    Sent(&'s Packet),
    /// Something arrived for the interface, which may be for others.
    Heard(&'s Packet),
    /// Something became of it.
    Became(&'s Event),
}

/// Lets a client live on an interface until it has what it needs or the time is up, and says what happens, with the time since the
/// beginning. Whether it had it is returned.
///
/// # Errors
/// Sockets that cannot be had.
pub fn live(
    mut client: Client,
    interface: &Interface,
    time: Duration,
    each: &mut dyn FnMut(Duration, Activity<'_>),
) -> Result<bool, LabError> {
    run(async {
        let families = Both::new(|family| client.kind().speaks(family));
        let sockets = Sockets::open(interface.clone(), End::Client, families, families[Family::V6])?;
        let (start, begins) = (Instant::now(), tokio::time::Instant::now());
        loop {
            let mut out = Output::default();
            let due = client.due().unwrap_or(time).min(time);
            tokio::select! {
                packet = sockets.receive() => {
                    let (packet, now) = (packet?, start.elapsed());
                    each(now, Activity::Heard(&packet));
                    client.receive(now, &packet, &mut out);
                }
                () = sleep_until(begins + due) => {
                    if start.elapsed() >= time {
                        return Ok(false);
                    }
                    client.wake(start.elapsed(), &mut out);
                }
            }
            for packet in &out.packets {
                sockets.send_patiently(packet).await?;
                each(start.elapsed(), Activity::Sent(packet));
            }
            for event in &out.events {
                each(start.elapsed(), Activity::Became(event));
            }
            if client.has_all(start.elapsed()) {
                return Ok(true);
            }
        }
    })
}
