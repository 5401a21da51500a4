use crate::harness::{Scene, demo, image};
use insta::assert_snapshot;

#[test]
fn each_form_of_a_name() {
    let names = [
        "LABEL=tides",
        "uuid=F02D6C9A-18E5-4B73-A4C1-8D5E7092B3F6",
        "UUID=f02d6c9a-18e5-4b73-a4c1-8d5e7092b3f7",
        "6a1c0f3e",
        "/dev/sdc",
        "/dev/sda",
        "LABEL=nowhere",
    ];
    let host = demo("quayside");
    let args: Vec<&str> = ["resolve", "--host", &host].into_iter().chain(names).collect();
    let said = Scene::new().run(&args);
    assert_eq!(said.status, 1);
    assert_snapshot!("resolve", said);
}

#[test]
fn a_members_uuid_leads_to_the_volume() {
    let scene = Scene::new();
    scene.write("a.img", image("lvm-pv-vg-a")).write("b.img", image("lvm-pv-vg-b"));
    let on = ["--host", "a.img", "--disk", "b.img", "--format", "json"];
    let ask = |name: &str| scene.run(&[&["resolve", name][..], &on].concat()).json()["answers"][0].clone();
    let member = ask("UUID=gr5igr-3g28-NTuz-yfHa-R0k0-gQZ4-V9PQa1");
    assert!(
        member["best"].is_null() && member["why"].as_str().unwrap().contains("/dev/mapper/zoovg-"),
        "{member}"
    );
    let volume = ask("/dev/zoovg/root");
    assert_eq!(volume["best"], "UUID=0dc25dc9-446e-5f67-93aa-1474ad731d82");
    assert_eq!(volume["found"][0], "/dev/mapper/zoovg-root");
}

#[test]
fn the_answer_in_json() {
    let json =
        Scene::new().run(&["resolve", "--host", &demo("kelp"), "UUID=2b0f91ac", "--format", "json"]).json();
    assert_eq!(json["schema"], "bradawl.resolve/1");
    let answer = &json["answers"][0];
    assert_eq!(
        (&answer["near"][0]["name"], &answer["near"][0]["distance"]),
        (&"UUID=2B0F-91AC".into(), &0.into())
    );
    assert_eq!(answer["near"][0]["device"], "/dev/sda1");
}
